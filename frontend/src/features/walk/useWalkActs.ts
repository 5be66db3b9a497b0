import { useQueryClient } from "@tanstack/react-query";
import type { Body, Schema } from "../../api/client";
import { newId } from "../../api/ids";
import { jobChanged } from "../../api/keys";
import { send } from "../../api/outbox";
import { whoReads } from "../../api/who";
import type { Walk } from "./api";
import { useMoment } from "./moment";

/** Something joined for a moment: how the load came out of it, or the volts it got. */
export interface Trial {
  kind: "bridge" | "feed" | "return";
  start: string;
  end: string;
  outcome: "right" | "partly" | "none" | null;
  volts: string;
}

/** A reading across a load that stands in for the unplugged one, as typed. */
export type StoodIn = Pick<
  Schema["StandInForm"],
  "place" | "volts" | "amps" | "source" | "hung_source" | "hung_load"
>;

export interface Reading {
  quantity: NonNullable<Schema["NewReading"]["quantity"]>;
  red: string;
  black: string;
  typed: string;
  /** The reading that was typed wrong, and that this one corrects. */
  supersedes?: string | null;
  /** Where it is not of the scenario on show. */
  scenario?: string;
  source?: string;
  warm?: string;
  hold?: "" | "least" | "most";
  note?: string;
  /** Ohms of the meter's own leads. */
  leads?: string;
  /** The cable beside a warm surface, where both were read as they are. */
  beside?: string;
  moved?: string;
  /** Made by whoever took it, where two pages may take the same. */
  id?: string;
  /** How it was taken, where a meter gave it by itself. */
  by_meter?: Schema["NewReading"]["by_meter"];
  /** Loads that are otherwise than in the moment that is set. */
  states?: Schema["NewReading"]["states"];
  /** Contacts that are otherwise than in the moment that is set. */
  contacts?: Schema["NewReading"]["contacts"];
}

/**
 * What can be done on a walk. Everything is kept on this device first, and is sent once.
 *
 * @example const { take } = useWalkActs(walk);
 *          const wrong = await take({ quantity: "volts", red, black, typed: "0.31" }, "Ring at bus");
 */
export function useWalkActs(walk: Walk) {
  const queries = useQueryClient();
  const moment = useMoment();
  const stage = walk.stage === "as_left" ? "as_left" : "as_found";
  /** Keeps it here, sends it once; what was wrong with it, or null. */
  const give = async <T extends "readings" | "walk/notes" | "walk/trials" | "walk/stand-in">(
    path: T,
    name: string,
    said: Body<T>,
  ): Promise<string | null> => {
    const outcome = await send({
      job: walk.job,
      path,
      name,
      body: { id: newId(), stage, who: whoReads(), ...said },
    });
    await jobChanged(queries, walk.job);
    return outcome.state === "refused" ? outcome.why : null;
  };
  const here = { scenario: walk.scenario, revision: walk.revision };
  const take = (reading: Reading, name: string) =>
    give("readings", `${reading.typed || "taken back"} at ${name}`, {
      ...here,
      ...moment,
      ...reading,
      view: null,
    });
  const note = (step: string, state: "acknowledged" | "skipped" | "back" | "seen", reason = "") =>
    give("walk/notes", reason || step, { run: walk.run, step, state, reason });
  const tryOut = (trial: Trial) =>
    give("walk/trials", `a ${trial.kind} that was tried`, {
      ...here,
      run: walk.run,
      ...(moment.states ? { states: moment.states } : {}),
      ...(moment.charging === undefined ? {} : { charging: moment.charging }),
      ...trial,
    });
  const standIn = (read: StoodIn) =>
    give("walk/stand-in", `${read.volts} across a stand-in load`, {
      ...here,
      run: walk.run,
      ...read,
    });
  return { take, note, tryOut, standIn };
}
