import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { call, type Schema, type Stage } from "./client";
import { keys } from "./keys";

/** What is wrong with the fuses of a wiring, or of one run of it. */
export function useProtection(job: string, revision: string, stage: Stage, run?: string) {
  const words = new URLSearchParams({ stage, ...(run && { run }) });
  return useQuery({
    queryKey: keys.protection(job, `${revision} ${words}`),
    queryFn: () => call<Schema["ProtectionList"]>(`/jobs/${job}/protection?${words}`),
    placeholderData: keepPreviousData,
  });
}
