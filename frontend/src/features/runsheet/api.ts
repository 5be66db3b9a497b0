import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { call, type Edit, type Schema, type Sheet, type Stage } from "../../api/client";
import { changes, jobsChanged, keys } from "../../api/keys";
import { send } from "../../api/outbox";

/** What is on screen; kept in the address, so that a reload or a shared link shows the same. */
export interface View {
  run?: string;
  scenario?: string;
  stage?: Stage;
  on?: string;
}

function search(view: View): string {
  const words = new URLSearchParams();
  for (const [key, value] of Object.entries(view)) if (value !== undefined) words.set(key, value);
  return words.toString();
}

/** The run sheet on screen; the last one stays visible while the next is on its way. */
export function useSheet(job: string, view: View) {
  return useQuery({
    queryKey: keys.sheet(job, view),
    queryFn: () => call<Sheet>(`/jobs/${job}/sheet?${search(view)}`),
    placeholderData: keepPreviousData,
  });
}

/** A reading as the sheet types it; what else may be said of one is said on a walk. */
export type TypedReading = Pick<
  Schema["NewReading"],
  | "id"
  | "stage"
  | "scenario"
  | "revision"
  | "quantity"
  | "red"
  | "black"
  | "typed"
  | "supersedes"
  | "who"
>;

/** What the inspector offers: sizes, styles, ratings. */
export function useChoices() {
  return useQuery({
    queryKey: keys.choices,
    queryFn: () => call<Schema["Choices"]>("/choices"),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/**
 * Everything that changes a job. Each answer is the sheet as it then is, and is shown at once.
 *
 * @example const acts = useActs(job, view, (sheet) => show(sheet.stage));
 *          acts.change.mutate({ sheet, element: "w1", edit: { length: "5.2" } });
 */
export function useActs(job: string, view: View, moved: (sheet: Sheet) => void) {
  const queries = useQueryClient();
  const settle = (sheet: Sheet, asked: View) => {
    queries.setQueryData(keys.sheet(job, asked), sheet);
    queries.setQueryData(keys.sheet(job, { ...asked, stage: sheet.stage }), sheet);
    queries.invalidateQueries({ queryKey: keys.job(job), refetchType: "none" });
    jobsChanged(queries);
    moved(sheet);
  };
  // A reading as left shows the wiring as left, whatever stage it was typed on.
  const seen = (reading: { stage: Stage }): View =>
    reading.stage === "as_left" ? { ...view, stage: "as_left" } : view;
  const refresh = () => queries.invalidateQueries({ queryKey: keys.job(job) });

  const scope = changes(job);
  const change = useMutation({
    scope,
    mutationFn: (said: { sheet: Sheet; element: string; edit: Edit; correct?: boolean }) =>
      call<Sheet>(`/jobs/${job}/changes`, changeBody(said.sheet, view, said, true)),
    onSuccess: (sheet) => settle(sheet, view),
    onError: refresh,
  });
  const read = async (reading: TypedReading, name: string) => {
    const body = { ...reading, view: seen(reading) };
    const outcome = await send<Schema["KeptReading"]>({ job, path: "readings", body, name });
    if (outcome.state === "kept") {
      if (outcome.answer.sheet) settle(outcome.answer.sheet, seen(reading));
      else await refresh();
    }
    return outcome;
  };
  const step = useMutation({
    scope,
    mutationFn: (said: { stage: Stage; direction: "undo" | "redo" }) =>
      call<Schema["Undone"]>(`/jobs/${job}/steps`, { ...said, view }),
    onSuccess: (stepped) => (stepped.sheet ? settle(stepped.sheet, view) : refresh()),
  });
  const finish = useMutation({
    scope,
    mutationFn: () => call<Sheet>(`/jobs/${job}/as-left`, { view }),
    onSuccess: (sheet) => settle(sheet, view),
  });
  return { change, read, step, finish };
}

/** What a question beside the sheet asks about: it changes with the sheet's own state. */
function beside(kept: Sheet, view: View, more: Record<string, string> = {}) {
  const words = new URLSearchParams({ run: kept.run.load.id, stage: kept.stage, ...more });
  if (view.on !== undefined) words.set("on", view.on);
  return { words, asked: `${kept.revision} ${kept.limit_set_id} ${words}` };
}

/** The run under every limit set there is. */
export function useLimitComparison(kept: Sheet, view: View, enabled: boolean) {
  const { words, asked } = beside(kept, view, { scenario: kept.scenario });
  return useQuery({
    queryKey: keys.limitComparison(kept.job, asked),
    queryFn: () => call<Schema["LimitComparison"]>(`/jobs/${kept.job}/limit-sets?${words}`),
    placeholderData: keepPreviousData,
    enabled,
  });
}

/** The scenario in which the run has least spare. */
export function useWorst(kept: Sheet) {
  const { words, asked } = beside(kept, {});
  return useQuery({
    queryKey: keys.worst(kept.job, asked),
    queryFn: () => call<Schema["WorstOut"]>(`/jobs/${kept.job}/worst?${words}`),
    placeholderData: keepPreviousData,
  });
}

/** What small changes of a piece, or of the run, would do. */
export function useWhatIf(kept: Sheet, view: View, piece: string | null) {
  const { words, asked } = beside(kept, view, {
    scenario: kept.scenario,
    ...(piece && { piece }),
  });
  return useQuery({
    queryKey: keys.whatIf(kept.job, asked),
    queryFn: () => call<Schema["WhatIf"]>(`/jobs/${kept.job}/what-if?${words}`),
    placeholderData: keepPreviousData,
    enabled: kept.run.load.on,
  });
}

/** A what-if: the sheet as it would be. Nothing is kept. */
export function trySheet(
  job: string,
  sheet: Sheet,
  view: View,
  said: { element: string; edit: Edit; correct?: boolean },
): Promise<Sheet> {
  return call<Sheet>(`/jobs/${job}/changes`, changeBody(sheet, view, said, false));
}

function changeBody(
  sheet: Sheet,
  view: View,
  said: { element: string; edit: Edit; correct?: boolean },
  keep: boolean,
) {
  return {
    stage: sheet.stage,
    revision: sheet.revision,
    element: said.element,
    edit: said.edit,
    correct: said.correct ?? false,
    keep,
    view: { ...view, run: sheet.run.load.id, scenario: sheet.scenario },
  };
}
