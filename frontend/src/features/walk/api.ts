import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { call, type Schema } from "../../api/client";
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
    queryKey: ["walk", job, view],
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
    queryKey: ["pulse", job],
    queryFn: () => call<Schema["Pulse"]>(`/jobs/${job}/pulse`),
    refetchInterval: EVERY_MS,
    retry: false,
  });
  const beat = pulse.data?.beat;
  useEffect(() => {
    if (beat && last.current && beat !== last.current) refresh(queries, job);
    if (beat) last.current = beat;
  }, [beat, job, queries]);
  useEffect(() => onKept((kept) => refresh(queries, kept)), [queries]);
  return pulse.isError;
}

function refresh(queries: ReturnType<typeof useQueryClient>, job: string): void {
  for (const key of ["walk", "sheet", "craft", "worst"])
    queries.invalidateQueries({ queryKey: [key, job] });
}
