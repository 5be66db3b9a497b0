import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect } from "react";
import { call, type Schema } from "../api/client";
import { keys } from "../api/keys";
import { speak } from "./format";

export type Settings = Schema["SettingsOut"];

/** Settings as they come: from now on figures are said in their units and words. */
export function spokenBy(settings: Settings): Settings {
  speak(settings);
  return settings;
}

/** The workshop's units and words. */
export function useSettings() {
  return useQuery({
    queryKey: keys.settings,
    queryFn: async () => spokenBy(await call<Settings>("/settings")),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/** Waits for the workshop's units, so that no number is ever shown in others. */
export function SettingsProvider({ children }: { children: ReactNode }) {
  const settings = useSettings();
  const queries = useQueryClient();
  useEffect(() => {
    if (settings.data)
      queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "settings" });
  }, [settings.data, queries]);
  if (!settings.isFetched) return null;
  return <>{children}</>;
}
