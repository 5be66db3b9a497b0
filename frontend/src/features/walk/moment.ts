import { createContext, useContext } from "react";
import type { Conditions } from "./MomentLine";

/** A moment as the scenario says. */
export const AS_SCENARIO: Conditions = {
  states: {},
  contacts: {},
  warm: "",
  charging: null,
  rpm: "",
};

export const MomentContext = createContext<Conditions>(AS_SCENARIO);

/** What a reading that is taken now says of its moment. */
export function useMoment() {
  const now = useContext(MomentContext);
  return {
    ...(Object.keys(now.states).length > 0 ? { states: now.states } : {}),
    ...(Object.keys(now.contacts).length > 0 ? { contacts: now.contacts } : {}),
    ...(now.charging === null ? {} : { charging: now.charging }),
    ...(now.warm ? { warm: now.warm } : {}),
    ...(now.rpm ? { rpm: now.rpm } : {}),
  };
}
