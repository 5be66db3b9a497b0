import { useQueryClient } from "@tanstack/react-query";
import { jobChanged } from "../../api/keys";
import { send } from "../../api/outbox";
import { whoReads } from "../../api/who";
import type { Walk } from "./api";
import { useMoment } from "./moment";

export interface Reading {
  quantity: "volts" | "amperes" | "kelvin";
  red: string;
  black: string;
  typed: string;
  supersedes?: string | null;
  source?: string;
  warm?: string;
  hold?: "" | "least" | "most";
  note?: string;
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
    state: "acknowledged" | "skipped" | "back",
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
  return { take, note };
}
