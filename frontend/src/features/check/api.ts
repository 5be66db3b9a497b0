import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { call, type Schema } from "../../api/client";
import { jobsChanged, keys } from "../../api/keys";

/** A job to check one load: made, and the run to walk told. */
export function useCheckLoad() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (asked: Schema["CheckLoad"]) => call<Schema["Checked"]>("/jobs/check", asked),
    onSuccess: () => jobsChanged(queries),
  });
}

/** The names of the workshop's loads, to be offered while a name is typed. */
export function useLoadNames(): string[] {
  const tables = useQuery({
    queryKey: keys.tables,
    queryFn: () => call<Schema["TablesOut"]>("/tables"),
    staleTime: 60_000,
  });
  const rows = tables.data?.tables.find((t) => t.name === "loads")?.rows ?? [];
  return rows.map((row) => row.key);
}
