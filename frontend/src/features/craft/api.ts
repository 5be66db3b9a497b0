import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type Body, call, type Schema, type Stage } from "../../api/client";
import { changes, jobChanged, keys } from "../../api/keys";

export type Craft = Schema["CraftOut"];
export type Drawn = Schema["Drawn"];

export interface CraftView {
  stage?: Stage;
  scenario?: string;
}

/** The craft as a whole; the last one stays visible while the next is on its way. */
export function useCraft(job: string, view: CraftView) {
  const words = new URLSearchParams(
    Object.entries(view).filter((pair): pair is [string, string] => Boolean(pair[1])),
  );
  return useQuery({
    queryKey: keys.craft(job, view),
    queryFn: () => call<Craft>(`/jobs/${job}/craft?${words}`),
    placeholderData: keepPreviousData,
  });
}

/** A change of the drawing: what it is made on, and what is said. */
export type Drawing = {
  [T in "lines" | "columns" | "runs" | "scenarios" | "sources"]: {
    to: T;
    at: Where;
    body: Body<T>;
  };
}["lines" | "columns" | "runs" | "scenarios" | "sources"];
type Where = { stage: Stage; revision: string };

/**
 * Everything that changes the drawing of a job; whatever shows the job is read afresh.
 *
 * @example const draw = useDraw(job);
 *          await draw.mutateAsync({ to: "lines", at: craft, body: { text } });
 */
export function useDraw(job: string) {
  const queries = useQueryClient();
  return useMutation({
    scope: changes(job),
    mutationFn: (said: Drawing) =>
      call<Drawn>(`/jobs/${job}/${said.to}`, {
        stage: said.at.stage,
        revision: said.at.revision,
        ...said.body,
      }),
    onSettled: () => jobChanged(queries, job),
  });
}

/** Change what a job says of itself. */
export function useDetails(job: string) {
  const queries = useQueryClient();
  return useMutation({
    scope: changes(job),
    mutationFn: (said: Partial<Schema["Details"]>) =>
      call<Schema["DetailsKept"]>(`/jobs/${job}/details`, said),
    onSettled: () => jobChanged(queries, job),
  });
}

/** Save the craft for other jobs to begin from. */
export function useSaveTemplate(job: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (said: Schema["SaveTemplate"]) =>
      call<Schema["TemplateOut"]>(`/jobs/${job}/template`, said),
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.templates }),
  });
}

/** Undo or redo a change of the wiring from outside the run sheet. */
export function useCraftStep(job: string) {
  const queries = useQueryClient();
  return useMutation({
    scope: changes(job),
    mutationFn: (said: { stage: Stage; direction: "undo" | "redo" }) =>
      call<Schema["Undone"]>(`/jobs/${job}/steps`, said),
    onSettled: () => jobChanged(queries, job),
  });
}

/** Undo what was drawn, on every stage that has it: `undoDrawn(step, made)`. */
export async function undoDrawn(
  step: ReturnType<typeof useCraftStep>,
  made: Pick<Drawn, "stages">,
): Promise<void> {
  for (const stage of [...made.stages].reverse()) {
    await step.mutateAsync({ stage, direction: "undo" });
  }
}

/** Lines to start a run from, from the tables. */
export function useTypicalRuns() {
  return useQuery({
    queryKey: keys.typicalRuns,
    queryFn: () => call<Schema["TypicalRuns"]>("/typical-runs"),
  });
}
