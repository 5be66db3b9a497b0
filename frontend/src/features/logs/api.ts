import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { call, Refused, type Schema, Unreachable } from "../../api/client";
import { newId } from "../../api/ids";
import { jobChanged, keys } from "../../api/keys";
import { whoReads } from "../../api/who";

export type Log = Schema["LogOut"];
export type Layout = Schema["LogLayout"];
export type Window = Schema["WindowOut"];
export type FigureName = Schema["TakeIn"]["figure"];
const HEAD_BYTES = 64_000;

/** The logs of a job. */
export function useLogs(job: string) {
  return useQuery({
    queryKey: keys.logs(job),
    queryFn: () => call<Schema["LogList"]>(`/jobs/${job}/logs`),
  });
}

/** One log as it is drawn, and what was found in it. */
export function useLog(job: string, log: string) {
  return useQuery({
    queryKey: keys.log(job, log),
    queryFn: () => call<Log>(`/jobs/${job}/logs/${log}`),
  });
}

/** A window picked by hand: its figures and its own trace. */
export function useWindow(job: string, log: string, window: [number, number] | null) {
  const words = window ? `start=${window[0]}&end=${window[1]}` : "";
  return useQuery({
    queryKey: keys.logWindow(job, log, words),
    queryFn: () => call<Schema["FineOut"]>(`/jobs/${job}/logs/${log}/window?${words}`),
    enabled: window !== null,
    placeholderData: keepPreviousData,
  });
}

/** How a file seems to be laid out, by its first bytes; or its rows by a layout that was corrected. */
export function useLayout(job: string) {
  return useMutation({
    mutationFn: async ({ file, layout }: { file: File; layout?: Layout }) => {
      const head = await file.slice(0, HEAD_BYTES).text();
      return call<Schema["LayoutOut"]>(`/jobs/${job}/logs/layout`, {
        head,
        layout: layout ?? null,
      });
    },
  });
}

/** Bring a log in: whole, or not at all. */
export function useBringLog(job: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async ({ file, layout }: { file: File; layout: Layout }) => {
      const words = new URLSearchParams({
        id: newId(),
        name: file.name.replace(/\.\w+$/, ""),
        layout: JSON.stringify(layout),
      });
      const answer = await fetch(`/api/v1/jobs/${job}/logs?${words}`, {
        method: "POST",
        headers: { "Content-Type": "text/csv" },
        body: file,
      }).catch(() => {
        throw new Unreachable("The program does not answer. The file is still here.");
      });
      const made = await answer.json().catch(() => null);
      if (!answer.ok) {
        throw new Refused(answer.status, made?.detail ?? "It was not taken.", made?.errors ?? []);
      }
      return made as Schema["LogLine"];
    },
    onSuccess: () => jobChanged(queries, job),
  });
}

/** Say where a channel was read; take a figure of a window as a reading. */
export function useLogActs(log: Log) {
  const queries = useQueryClient();
  const changed = () => jobChanged(queries, log.job);
  const points = useMutation({
    mutationFn: (said: Schema["PointsIn"]) => call(`/jobs/${log.job}/logs/${log.id}/points`, said),
    onSuccess: changed,
  });
  const take = useMutation({
    mutationFn: (said: Omit<Schema["TakeIn"], "id" | "who">) =>
      call<Schema["TakenReading"]>(`/jobs/${log.job}/logs/${log.id}/readings`, {
        ...said,
        id: newId(),
        who: whoReads(),
      }),
    onSuccess: changed,
  });
  return { points, take };
}

/** What tells a channel from others of its log, which never change their order. */
export const keyOf = (name: string, at: number) => `${at} ${name}`;
