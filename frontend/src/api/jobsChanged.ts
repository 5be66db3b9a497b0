import type { QueryClient } from "@tanstack/react-query";

/** The list of jobs is out of date: what is on its way was asked before, and must not be shown. */
export async function jobsChanged(queries: QueryClient) {
  await queries.cancelQueries({ queryKey: ["jobs"] });
  await queries.invalidateQueries({ queryKey: ["jobs"] });
}
