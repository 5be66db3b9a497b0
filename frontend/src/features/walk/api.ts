import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { call, type Edit, type Schema, type Sheet, sentence } from "../../api/client";
import { jobChanged, keys } from "../../api/keys";
import { useSay } from "../../ui/told/Notices";

export type Walk = Schema["WalkOut"];
export type Card = Schema["Card"];

export interface WalkView {
  run?: string;
  scenario?: string;
  stage?: string;
}
const EVERY_MS = 1500;

/** Where the walk of a run stands. */
export function useWalk(job: string, view: WalkView, enabled = true) {
  const words = new URLSearchParams(
    Object.entries(view).filter((pair): pair is [string, string] => Boolean(pair[1])),
  );
  return useQuery({
    queryKey: keys.walk(job, view),
    queryFn: () => call<Walk>(`/jobs/${job}/walk?${words}`),
    placeholderData: keepPreviousData,
    enabled,
  });
}

/** What a card is asked with: the run, its scenario and stage, and the two points. */
function pairAsked(walk: Walk, red: string, black: string, quantity = "volts"): URLSearchParams {
  const { run, scenario, stage } = walk;
  return new URLSearchParams({ run, scenario, stage, red, black, quantity });
}

/** Any two points as a card; nothing is asked while there are none. */
export function useCard(walk: Walk, pair: { red: string; black: string } | null) {
  const asked = pair ? pairAsked(walk, pair.red, pair.black).toString() : "";
  return useQuery({
    queryKey: keys.card(walk.job, asked),
    queryFn: () => call<Card>(`/jobs/${walk.job}/walk/card?${asked}`),
    enabled: pair !== null,
  });
}

/** What is typed so far for a card means by itself; what was typed before shows until it is known. */
export function useMeans(walk: Walk, card: Card, typed: string) {
  const quantity = card.kind === "current" ? "amperes" : "volts";
  const asked = pairAsked(walk, card.red.id, card.black.id, quantity);
  asked.set("typed", typed);
  return useQuery({
    queryKey: keys.means(walk.job, asked.toString()),
    queryFn: () => call<Schema["Means"]>(`/jobs/${walk.job}/walk/means?${asked}`),
    enabled: typed.trim() !== "",
    retry: false,
    staleTime: 5_000,
    placeholderData: (before, query) =>
      query?.queryKey[1] === walk.job && typed.trim() !== "" ? before : undefined,
  });
}

/** What a figure means by itself, in words; nothing where nobody can say. */
export async function meaning(walk: Walk, card: Card, typed: string): Promise<string> {
  const quantity = card.kind === "current" ? "amperes" : "volts";
  const asked = pairAsked(walk, card.red.id, card.black.id, quantity);
  asked.set("typed", typed);
  return call<Schema["Means"]>(`/jobs/${walk.job}/walk/means?${asked}`).then(
    (means) => means.says,
    () => "",
  );
}

export type Swept = Schema["SweptOut"];

/** The sweep at rest, once it is opened. */
export function useAtRest(
  walk: Walk,
  side: "feed" | "return",
  contact: string | null,
  enabled: boolean,
) {
  const { run, scenario, stage } = walk;
  const words = new URLSearchParams({ run, scenario, stage, side });
  if (contact) words.set("contact", contact);
  const asked = words.toString();
  return useQuery({
    queryKey: keys.atRest(walk.job, asked),
    queryFn: () => call<Schema["AtRestOut"]>(`/jobs/${walk.job}/walk/at-rest?${asked}`),
    enabled,
  });
}

/** A test point anywhere on the craft, joined to nothing that is drawn. */
export function useFreePoint(walk: Walk) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (name: string) =>
      call<Schema["SplitDone"]>(`/jobs/${walk.job}/walk/points`, {
        stage: walk.stage,
        revision: walk.revision,
        name,
      }),
    onSuccess: () => jobChanged(queries, walk.job),
  });
}

/** Say what a piece is that nobody had drawn; the drawing was wrong, so it is corrected. */
export function useFillIn(walk: Walk) {
  const queries = useQueryClient();
  const say = useSay();
  const undo = useUndo(walk);
  return useMutation({
    mutationFn: (said: { element: string; edit: Edit }) =>
      call<Sheet>(`/jobs/${walk.job}/changes`, {
        stage: walk.stage,
        revision: walk.revision,
        correct: true,
        view: { run: walk.run, scenario: walk.scenario },
        ...said,
      }),
    onSuccess: () => {
      say("Filled in.", { act: { label: "Undo", run: undo } });
      return jobChanged(queries, walk.job);
    },
  });
}

/** Split a stretch where a lead can touch it. */
export function useSplit(walk: Walk) {
  const queries = useQueryClient();
  const say = useSay();
  const undo = useUndo(walk);
  return useMutation({
    mutationFn: (form: Omit<Schema["SplitForm"], "stage" | "revision" | "run">) =>
      call<Schema["SplitDone"]>(`/jobs/${walk.job}/walk/splits`, {
        stage: walk.stage,
        revision: walk.revision,
        run: walk.run,
        ...form,
      }),
    onSuccess: () => {
      say("Added, with a test point on each side.", { act: { label: "Undo", run: undo } });
      return jobChanged(queries, walk.job);
    },
  });
}

/** Takes back the last change of the drawing. */
function useUndo(walk: Walk) {
  const queries = useQueryClient();
  const say = useSay();
  return () =>
    call<Schema["Undone"]>(`/jobs/${walk.job}/steps`, {
      stage: walk.stage,
      direction: "undo",
      view: { run: walk.run },
    })
      .then((undone) => say(undone.said))
      .catch((error) => say(sentence(error), { bad: true }))
      .finally(() => jobChanged(queries, walk.job));
}

/** Keeps a page up to date with what others do to the job, within two seconds; whether the server is away. */
export function usePulse(job: string): boolean {
  const queries = useQueryClient();
  const last = useRef<string>(undefined);
  const pulse = useQuery({
    queryKey: keys.pulse(job),
    queryFn: () => call<Schema["Pulse"]>(`/jobs/${job}/pulse`),
    refetchInterval: EVERY_MS,
    retry: false,
  });
  const beat = pulse.data?.beat;
  useEffect(() => {
    if (beat && last.current && beat !== last.current) jobChanged(queries, job);
    if (beat) last.current = beat;
  }, [beat, job, queries]);
  return pulse.isError;
}

/** Which stand-in load suits the run, and what was read across one, once it is opened. */
export function useStandIn(walk: Walk, enabled: boolean) {
  const { run, scenario, stage } = walk;
  const asked = new URLSearchParams({ run, scenario, stage }).toString();
  return useQuery({
    queryKey: keys.standIn(walk.job, asked),
    queryFn: () => call<Schema["StandInOut"]>(`/jobs/${walk.job}/walk/stand-in?${asked}`),
    enabled,
  });
}
