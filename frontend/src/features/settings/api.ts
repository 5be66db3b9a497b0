import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { call, type Schema, sentence } from "../../api/client";
import { keys } from "../../api/keys";
import { type Settings, spokenBy } from "../../format/settings";
import { useSay } from "../../ui/told/Notices";

/** Keep some of the workshop's settings. */
export function useKeepSettings() {
  const queries = useQueryClient();
  const say = useSay();
  return useMutation({
    mutationFn: (more: Partial<Settings>) => call<Settings>("/settings", more),
    onSuccess: (now) => {
      queries.setQueryData(keys.settings, spokenBy(now));
      say("Kept.");
    },
    onError: (error) => say(sentence(error), { bad: true }),
  });
}

type Copies = Schema["CopiesOut"];

/** The copies of all jobs. */
export function useCopies() {
  return useQuery({ queryKey: keys.copies, queryFn: () => call<Copies>("/copies") });
}

/** One more copy, now. */
export function useMakeCopy() {
  const queries = useQueryClient();
  const say = useSay();
  return useMutation({
    mutationFn: () => call<Copies>("/copies", {}),
    onSuccess: (now) => {
      queries.setQueryData(keys.copies, now);
      say("Copied.");
    },
    onError: (error) => say(sentence(error), { bad: true }),
  });
}
