import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { call, type Schema } from "../../api/client";
import { newId } from "../../api/ids";
import { changes, jobChanged, keys } from "../../api/keys";
import { type Outcome, send } from "../../api/outbox";
import { whoReads } from "../../api/who";

export type Bench = Schema["UpgradeOut"];
export type Candidate = Schema["CandidateOut"];
export type Order = Schema["OrderOut"];
export type Sizing = Schema["SizingOut"];

export interface BenchView {
  run?: string;
  minute?: string;
}
const AGAIN_MS = 150;

/** The upgrade bench of a run; it is asked for again until every candidate is worked out. */
export function useBench(job: string, view: BenchView) {
  const words = new URLSearchParams(
    Object.entries(view).filter((pair): pair is [string, string] => Boolean(pair[1])),
  );
  return useQuery({
    queryKey: keys.upgrade(job, view),
    queryFn: () => call<Bench>(`/jobs/${job}/upgrade?${words}`),
    placeholderData: keepPreviousData,
    refetchInterval: (query) => (query.state.data && !query.state.data.done ? AGAIN_MS : false),
  });
}

/** Take a candidate as the plan. */
export function useTake(job: string) {
  const queries = useQueryClient();
  return useMutation({
    scope: changes(job),
    mutationFn: (said: Schema["Take"]) => call<Schema["Taken"]>(`/jobs/${job}/upgrade/take`, said),
    onSettled: () => jobChanged(queries, job),
  });
}

/** Undo or redo on the plan. */
export function usePlanStep(job: string) {
  const queries = useQueryClient();
  return useMutation({
    scope: changes(job),
    mutationFn: (direction: "undo" | "redo") =>
      call<Schema["Undone"]>(`/jobs/${job}/steps`, { stage: "planned", direction }),
    onSettled: () => jobChanged(queries, job),
  });
}

/** The sizing of the whole craft; asked for again while it runs. */
export function useSizing(job: string) {
  return useQuery({
    queryKey: keys.sizing(job),
    queryFn: () => call<Sizing>(`/jobs/${job}/sizing`),
    refetchInterval: (query) => (query.state.data?.state === "running" ? 500 : false),
  });
}

/** Start or stop the sizing of a craft, or take its sizes as the plan. */
export function useSizingActs(job: string) {
  const queries = useQueryClient();
  const show = (sizing: Sizing) => queries.setQueryData(keys.sizing(job), sizing);
  const start = useMutation({
    mutationFn: (wanted: Schema["SizeWanted"]) => call<Sizing>(`/jobs/${job}/sizing`, wanted),
    onSuccess: show,
  });
  const stop = useMutation({
    mutationFn: () => call<Sizing>(`/jobs/${job}/sizing/stop`, {}),
    onSuccess: show,
  });
  const take = useMutation({
    mutationFn: (revision: string) =>
      call<Schema["Taken"]>(`/jobs/${job}/sizing/take`, { revision }),
    onSettled: () => jobChanged(queries, job),
  });
  return { start, stop, take };
}

/** The whole craft put right run by run; asked for again until it is done. */
export function useRunByRun(job: string, asked: boolean) {
  return useQuery({
    queryKey: keys.runByRun(job),
    queryFn: () => call<Schema["RunByRunOut"]>(`/jobs/${job}/run-by-run`),
    enabled: asked,
    refetchInterval: (query) => (query.state.data && !query.state.data.done ? AGAIN_MS : false),
  });
}

/** Take every repair as the plan. */
export function useTakeRunByRun(job: string) {
  const queries = useQueryClient();
  return useMutation({
    scope: changes(job),
    mutationFn: (revision: string) =>
      call<Schema["Taken"]>(`/jobs/${job}/run-by-run/take`, { revision }),
    onSettled: () => jobChanged(queries, job),
  });
}

/** The work order of the plan. */
export function useOrder(job: string, run: string | null) {
  const words = run ? `?run=${encodeURIComponent(run)}` : "";
  return useQuery({
    queryKey: keys.order(job, run),
    queryFn: () => call<Order>(`/jobs/${job}/order${words}`),
    placeholderData: keepPreviousData,
  });
}

/** Tick a step of the work order, or take the tick back. It is kept on this device until it is sent. */
export function useTick(order: Order) {
  const queries = useQueryClient();
  return async (step: Order["steps"][number], done: boolean): Promise<Outcome<unknown>> => {
    const outcome = await send({
      job: order.job,
      path: "walk/notes",
      name: step.says,
      body: {
        id: newId(),
        stage: "planned",
        run: order.run,
        step: step.id,
        state: done ? "acknowledged" : "back",
        reason: "",
        who: whoReads(),
      },
    });
    if (outcome.state === "kept") await jobChanged(queries, order.job);
    return outcome;
  };
}
