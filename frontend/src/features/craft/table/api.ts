import { type QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { call, type Schema, type Stage } from "../../../api/client";
import { changes, jobChanged, keys } from "../../../api/keys";

export type RunTable = Schema["RunTableOut"];
export type CellName = RunTable["columns"][number]["cell"];
export type Cells = Partial<Record<CellName, string>>;
/** A row as it is sent: what is otherwise, or all of one that is new. */
export interface RowSent {
  run: string | null;
  cells: Cells;
}

interface Kept {
  rows: RowSent[];
  panels: Record<string, string>;
  /** Told when they are kept, just before the table shows them. */
  onKept?: () => void;
}

const asked = (job: string, stage: Stage) =>
  call<RunTable>(`/jobs/${job}/run-table?stage=${stage}`);

/** The runs of a craft as a table. */
export function useRunTable(job: string, stage: Stage) {
  return useQuery({
    queryKey: keys.runTable(job, stage),
    queryFn: () => asked(job, stage),
  });
}

/**
 * Rows kept, all or none. The table is read afresh before the next change goes out: each is made upon what the one
 * before left.
 */
export function useKeepRows(job: string, stage: Stage) {
  const queries = useQueryClient();
  return useMutation({
    scope: changes(job),
    mutationFn: async ({ onKept, ...said }: Kept) => {
      const now = await latest(queries, job, stage);
      const kept = await call<Schema["RowsKept"]>(`/jobs/${job}/run-table`, {
        stage,
        revision: now.revision,
        ...said,
      });
      const fresh = await asked(job, stage);
      // At once with the rows as they are now: none is seen twice, or not at all.
      onKept?.();
      queries.setQueryData(keys.runTable(job, stage), fresh);
      return kept;
    },
    onSettled: () => jobChanged(queries, job),
  });
}

async function latest(queries: QueryClient, job: string, stage: Stage): Promise<RunTable> {
  return queries.ensureQueryData({
    queryKey: keys.runTable(job, stage),
    queryFn: () => asked(job, stage),
  });
}

/** Runs held to a limit of their own, as typed; or to what ruled before. */
export function useHold(job: string) {
  const queries = useQueryClient();
  return useMutation({
    scope: changes(job),
    mutationFn: (said: Partial<Schema["LimitsIn"]>) =>
      call<Schema["LimitsHeld"]>(`/jobs/${job}/run-table/limits`, said),
    onSettled: () => jobChanged(queries, job),
  });
}

/** What a pasted table says; nothing is kept. */
export function useReadTable(job: string, stage: Stage) {
  return useMutation({
    mutationFn: (text: string) =>
      call<Schema["TableRead"]>(`/jobs/${job}/run-table/read`, { text, stage }),
  });
}
