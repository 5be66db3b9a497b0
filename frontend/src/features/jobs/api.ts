import {
  keepPreviousData,
  useInfiniteQuery,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { call, type Schema } from "../../api/client";
import { jobsChanged, keys } from "../../api/keys";

export type Job = Schema["ListedJob"];
type Created = Schema["Created"];

/** The jobs that are asked for, the latest first, page by page; asked again while some are worked out. */
export function useJobs(asked: string) {
  return useInfiniteQuery({
    queryKey: keys.found(asked),
    queryFn: ({ pageParam }) => call<Schema["JobList"]>(`/jobs?${asked}&start=${pageParam}`),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const shown = pages.reduce((n, page) => n + page.jobs.length, 0);
      return shown < last.total && last.jobs.length > 0 ? shown : undefined;
    },
    placeholderData: keepPreviousData,
    refetchInterval: (query) => (query.state.data?.pages.some((p) => p.waiting > 0) ? 200 : false),
  });
}

/** Put a job away, or take it back. */
export function useMoveJob() {
  return useJobsMutation((said: { job: Job; away: boolean }) =>
    call<unknown>(`/jobs/${said.job.id}/${said.away ? "put-away" : "take-back"}`, {}),
  );
}

/** New job on the craft of another. */
export function useCopyJob() {
  return useJobsMutation((job: Job) => call<Created>(`/jobs/${job.id}/copy`, {}));
}

/** A job from nothing. */
export function useNewJob() {
  return useJobsMutation((asked: Schema["NewJob"]) => call<Created>("/jobs/new", asked));
}

/** Crafts that were saved to begin jobs from. */
export function useTemplates() {
  return useQuery({
    queryKey: keys.templates,
    queryFn: () => call<Schema["TemplateList"]>("/jobs/templates"),
  });
}

/** Take a template out. */
export function useDropTemplate() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (id: string) =>
      call<Schema["TemplateList"]>(`/jobs/templates/${id}`, undefined, "DELETE"),
    onSuccess: (now) => queries.setQueryData(keys.templates, now),
  });
}

/** A sample job to look round in. */
export function useSample() {
  return useJobsMutation((_: undefined) => call<Created>("/jobs/sample", {}));
}

/** What a job file would bring in; nothing is kept. */
export function usePreview() {
  return useMutation({
    mutationFn: async (file: File) => {
      const text = await file.text();
      const preview = await call<Schema["Preview"]>("/jobs/preview", text || " ");
      return { name: file.name, text, preview };
    },
  });
}

/** Everything that was done to a job, the newest first. */
export function useTimeline(job: string) {
  return useQuery({
    queryKey: keys.timeline(job),
    queryFn: () => call<Schema["Timeline"]>(`/jobs/${job}/timeline`),
  });
}

/** Bring a job file in, all of it or nothing: as a job of its own, or added to the one that is here. */
export function useBringIn() {
  return useJobsMutation(({ text, how }: { text: string; how: "copy" | "merge" }) =>
    call<Created>(`/jobs?how=${how}`, text),
  );
}

function useJobsMutation<Asked, Answer>(mutationFn: (asked: Asked) => Promise<Answer>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn,
    onSuccess: () => {
      jobsChanged(queries);
    },
  });
}
