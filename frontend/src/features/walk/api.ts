import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { call, type Schema } from "../../api/client";
import { jobChanged, keys } from "../../api/keys";
import { onKept } from "../../api/outbox";

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
  useEffect(() => onKept((kept) => jobChanged(queries, kept)), [queries]);
  return pulse.isError;
}

/** What a stand-in load in place of the unplugged one shows. */
export function useStandIn(walk: Walk) {
  return useMutation({
    mutationFn: (form: Omit<Schema["StandInForm"], "run" | "scenario" | "stage">) =>
      call<Schema["StandInOut"]>(`/jobs/${walk.job}/stand-in`, {
        run: walk.run,
        scenario: walk.scenario,
        stage: walk.stage,
        ...form,
      }),
  });
}
