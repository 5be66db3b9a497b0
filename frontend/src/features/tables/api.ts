import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { call, type Schema, sentence } from "../../api/client";
import { keys } from "../../api/keys";
import { useSay } from "../../ui/told/Notices";

export type Table = Schema["TableOfRows"];
type Kept = Schema["KeptRows"];
type Typed = Schema["OwnRow"][];

/** What accepted readings say of good pieces, beside what the tables say. */
export function useLearned() {
  return useQuery({
    queryKey: keys.learned,
    queryFn: () => call<Schema["LearnedTable"]>("/learned"),
  });
}

/** Every table with its rows. */
export function useTables() {
  return useQuery({ queryKey: keys.tables, queryFn: () => call<Schema["TablesOut"]>("/tables") });
}

/** Where a table can be had as CSV. */
export const csvAddress = (table: string) => `/api/v1/tables/${table}/csv`;

/** After any change of a table: everything that rests on it is asked for afresh. */
function useTakeKept() {
  const queries = useQueryClient();
  return (kept: Kept) => {
    queries.setQueryData<Schema["TablesOut"]>(keys.tables, (now) =>
      now ? { tables: now.tables.map((t) => (t.id === kept.table.id ? kept.table : t)) } : now,
    );
    queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "tables" });
  };
}

const keepRows = (table: string, rows: Typed, gone: string[] = []) =>
  call<Kept>(`/tables/${table}/rows`, { rows, gone });

/**
 * Keep or take out own rows; says what happened, with the way back.
 *
 * @example const keep = useKeepRows("loads");
 *          keep.mutate({ rows: [{ cells }], gone: [], said: "Kept." });
 */
export function useKeepRows(table: string) {
  const take = useTakeKept();
  const say = useSay();
  const keep = useMutation({
    mutationFn: (said: { rows: Typed; gone: string[]; said: string }) =>
      keepRows(table, said.rows, said.gone),
    onSuccess: (kept, asked) => {
      take(kept);
      if (asked.said) say(asked.said, { act: { label: "Undo", run: () => undo(kept) } });
    },
    onError: (error) => say(sentence(error), { bad: true }),
  });
  const undo = (kept: Kept) =>
    keep.mutate({ rows: kept.undo.rows ?? [], gone: kept.undo.gone ?? [], said: "" });
  return { ...keep, undo };
}

/** Keep one row as it was typed; the form says what is wrong with it. */
export function useKeepRow(table: string) {
  const take = useTakeKept();
  return useMutation({
    mutationFn: (rows: Typed) => keepRows(table, rows),
    onSuccess: take,
  });
}

/** Bring in rows as CSV, all or none. */
export function useBringRows(table: string) {
  const take = useTakeKept();
  return useMutation({
    mutationFn: (text: string) => call<Kept>(`/tables/${table}/csv`, text || " "),
    onSuccess: take,
  });
}

/** Copy a whole limit set under another name, with its ceilings for single pieces. */
export function useCopySet() {
  const take = useTakeKept();
  return useMutation({
    mutationFn: async (said: { rows: Typed; from: string; name: string }) => {
      const kept = await keepRows("limit_sets", said.rows);
      const all = await call<Schema["TablesOut"]>("/tables");
      const singles = all.tables
        .find((t) => t.id === "single_limits")
        ?.rows.filter((r) => r.cells.set === said.from)
        .map((r) => ({ was: null, cells: { ...r.cells, set: said.name } }));
      if (singles?.length) take(await keepRows("single_limits", singles));
      return kept;
    },
    onSuccess: take,
  });
}
