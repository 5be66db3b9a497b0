import { useQueryClient } from "@tanstack/react-query";
import type { Schema } from "../../api/client";
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
  quantity: "volts" | "amperes" | "kelvin" | "ohms" | "ripple";
  red: string;
  black: string;
  typed: string;
  supersedes?: string | null;
  source?: string;
  warm?: string;
  hold?: "" | "least" | "most";
  note?: string;
  /** Ohms of the meter's own leads. */
  leads?: string;
  /** The cable beside a warm surface, where both were read as they are. */
  beside?: string;
  moved?: string;
  /** Loads that are otherwise than in the moment that is set. */
  states?: Schema["NewReading"]["states"];
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
  const refresh = () => jobChanged(queries, walk.job);
  const take = async (reading: Reading, name: string): Promise<string | null> => {
    const outcome = await send({
      job: walk.job,
      path: "readings",
      name: `${reading.typed} at ${name}`,
      body: {
        id: crypto.randomUUID(),
        stage,
        scenario: walk.scenario,
        revision: walk.revision,
        who: whoReads(),
        ...moment,
        ...reading,
        view: { run: walk.run, scenario: walk.scenario },
      },
    });
    await refresh();
    return outcome.state === "refused" ? outcome.why : null;
  };
  const note = async (
    step: string,
    state: "acknowledged" | "skipped" | "back" | "seen",
    reason = "",
  ): Promise<string | null> => {
    const outcome = await send({
      job: walk.job,
      path: "walk/notes",
      name: reason || step,
      body: {
        id: crypto.randomUUID(),
        stage,
        run: walk.run,
        step,
        state,
        reason,
        who: whoReads(),
      },
    });
    await refresh();
    return outcome.state === "refused" ? outcome.why : null;
  };
  const tryOut = async (trial: Trial): Promise<string | null> => {
    const outcome = await send({
      job: walk.job,
      path: "walk/trials",
      name: `a ${trial.kind} that was tried`,
      body: {
        id: crypto.randomUUID(),
        stage,
        scenario: walk.scenario,
        run: walk.run,
        revision: walk.revision,
        who: whoReads(),
        ...(moment.states ? { states: moment.states } : {}),
        ...(moment.charging === undefined ? {} : { charging: moment.charging }),
        ...trial,
      },
    });
    await refresh();
    return outcome.state === "refused" ? outcome.why : null;
  };
  const standIn = async (read: StoodIn): Promise<string | null> => {
    const outcome = await send({
      job: walk.job,
      path: "walk/stand-in",
      name: `${read.volts} across a stand-in load`,
      body: {
        id: crypto.randomUUID(),
        stage,
        scenario: walk.scenario,
        run: walk.run,
        revision: walk.revision,
        who: whoReads(),
        ...read,
      },
    });
    await refresh();
    return outcome.state === "refused" ? outcome.why : null;
  };
  return { take, note, tryOut, standIn };
}
