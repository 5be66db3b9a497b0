import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { call, type Schema } from "../../api/client";
import { newId } from "../../api/ids";
import { jobChanged, keys } from "../../api/keys";
import { whoReads } from "../../api/who";

export type Recording = Schema["RecordingOut"];
export type Begin = Omit<Schema["RecordingForm"], "id" | "who">;
const EVERY_MS = 700;

/** The recordings of a job, the newest first; looked at again and again while one goes on. */
export function useRecordings(job: string) {
  const queries = useQueryClient();
  const found = useQuery({
    queryKey: keys.recordings(job),
    queryFn: () => call<Schema["RecordingList"]>(`/jobs/${job}/recordings`),
    refetchInterval: (query) =>
      query.state.data?.recordings.some((r) => !r.is_over || !r.saved) ? EVERY_MS : false,
  });
  // What became a reading is news for whatever shows the job.
  const taken = (found.data?.recordings ?? [])
    .map((r) => `${r.is_over} ${r.saved} ${r.changes.filter((c) => c.taken).length}`)
    .join();
  const before = useRef<string>(undefined);
  useEffect(() => {
    if (before.current !== undefined && taken !== before.current) void jobChanged(queries, job);
    before.current = taken;
  }, [taken, job, queries]);
  return found;
}

/** Begin a recording, stop it, say what is moved. */
export function useRecordingActs(job: string) {
  const queries = useQueryClient();
  const onSuccess = () => queries.invalidateQueries({ queryKey: keys.recordings(job) });
  const begin = useMutation({
    mutationFn: (said: Begin) =>
      call<Recording>(`/jobs/${job}/recordings`, { ...said, id: newId(), who: whoReads() }),
    onSuccess,
  });
  const stop = useMutation({
    mutationFn: (id: string) => call<Recording>(`/jobs/${job}/recordings/${id}/stop`, {}),
    onSuccess,
  });
  const moving = useMutation({
    mutationFn: ({ id, piece }: { id: string; piece: string }) =>
      call<Recording>(`/jobs/${job}/recordings/${id}/moving`, { piece }),
    onSuccess,
  });
  const moved = useMutation({
    mutationFn: ({ id, change, piece }: { id: string; change: number; piece: string }) =>
      call<Recording>(`/jobs/${job}/recordings/${id}/moved`, { change, piece }),
    onSuccess,
  });
  return { begin, stop, moving, moved };
}
