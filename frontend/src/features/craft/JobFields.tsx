import type { Schema } from "../../api/client";
import { Pick, TextField } from "../../ui/TextField";
import { CRAFTS, NOMINALS, POLARITIES } from "./words";

type Asked = Schema["NewJob"];

interface Props {
  said: {
    craft: Asked["craft"];
    nominal_v: Asked["nominal_v"];
    polarity: Asked["polarity"];
    craft_name?: string;
    customer?: string;
    complaint?: string;
    when?: string;
    conditions?: string;
  };
  set: (more: Partial<Asked>) => void;
}

/** Which craft it is, by which its history is found again, and whose. */
export function WhoseFields({ said, set }: Props) {
  return (
    <>
      <TextField
        label="Name of the craft"
        hint="so you find its history next time"
        value={said.craft_name ?? ""}
        onChange={(craft_name) => set({ craft_name })}
      />
      <TextField
        label="Customer"
        value={said.customer ?? ""}
        onChange={(customer) => set({ customer })}
      />
    </>
  );
}

/** What is wrong, when, and under which conditions. */
export function ComplaintFields({ said, set }: Props) {
  return (
    <>
      <TextField
        className="col-span-2"
        label="Complaint: what is wrong"
        long
        value={said.complaint ?? ""}
        onChange={(complaint) => set({ complaint })}
      />
      <TextField label="When" value={said.when ?? ""} onChange={(when) => set({ when })} />
      <TextField
        label="Under which conditions"
        hint="cold, other loads on, shaken …"
        value={said.conditions ?? ""}
        onChange={(conditions) => set({ conditions })}
      />
    </>
  );
}

/** What the craft is: its kind, nominal voltage, and which pole the body carries. */
export function CraftFields({ said, set }: Props) {
  return (
    <>
      <Pick
        label="Craft"
        value={said.craft}
        choices={CRAFTS}
        onPick={(v) => set({ craft: v as Asked["craft"] })}
      />
      <Pick
        label="Nominal voltage"
        value={String(said.nominal_v)}
        choices={NOMINALS}
        onPick={(v) => set({ nominal_v: Number(v) as Asked["nominal_v"] })}
      />
      <Pick
        label="Polarity"
        value={said.polarity}
        choices={POLARITIES}
        onPick={(v) => set({ polarity: v as Asked["polarity"] })}
      />
    </>
  );
}
