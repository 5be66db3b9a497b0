import { useMutation, useQueryClient } from "@tanstack/react-query";
import { call, sentence } from "../../api/client";
import { keys } from "../../api/keys";
import type { Settings } from "../../format/settings";
import { useSay } from "../../ui/Notices";

/** Keep some of the workshop's settings. */
export function useKeepSettings() {
  const queries = useQueryClient();
  const say = useSay();
  return useMutation({
    mutationFn: (more: Partial<Settings>) => call<Settings>("/settings", more),
    onSuccess: (now) => {
      queries.setQueryData(keys.settings, now);
      say("Kept.");
    },
    onError: (error) => say(sentence(error), { bad: true }),
  });
}
