import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { call, type Schema } from "../../api/client";
import { jobChanged, keys } from "../../api/keys";

export type Check = Schema["SourceCheck"];
export type Form = Required<Check["form"]>;

/** The figures read at a source, and what they say; the craft's first source where none is named. */
export function useSourceCheck(job: string, source: string) {
  const asked = source ? `?source=${encodeURIComponent(source)}` : "";
  return useQuery({
    queryKey: keys.sourceCheck(job, source),
    queryFn: () => call<Check>(`/jobs/${job}/source-check${asked}`),
  });
}

/** Keep figures, and judge the source by them. */
export function useKeepSourceCheck(job: string, source: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (said: { battery: Check["battery"]; form: Form }) =>
      call<Check>(`/jobs/${job}/source-check`, { source, ...said }),
    onSuccess: (now) => {
      queries.setQueryData(keys.sourceCheck(job, ""), now);
      queries.setQueryData(keys.sourceCheck(job, now.source), now);
    },
  });
}

/** Let the model use an internal resistance that was read. */
export function useGiveModel(job: string, source: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (internal: string) =>
      call<unknown>(`/jobs/${job}/source-model`, { source, internal }),
    onSuccess: () => {
      jobChanged(queries, job);
    },
  });
}
