import { useMutation, useQueryClient } from "@tanstack/react-query";
import { call, type Schema, sentence } from "../../api/client";
import { useSay } from "../../ui/Notices";

type Kept = Schema["KeptRows"];

/** After any change of a table: everything that rests on it is asked for afresh. */
export function useTakeKept() {
  const queries = useQueryClient();
  return (kept: Kept) => {
    queries.setQueryData<Schema["ShelvesOut"]>(["shelves"], (now) =>
      now ? { shelves: now.shelves.map((s) => (s.id === kept.shelf.id ? kept.shelf : s)) } : now,
    );
    queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "shelves" });
  };
}

/**
 * Keep or take off own rows; says what happened, with the way back.
 *
 * @example const keep = useKeepRows("loads");
 *          keep.mutate({ rows: [{ cells }], gone: [], said: "Kept." });
 */
export function useKeepRows(shelf: string) {
  const take = useTakeKept();
  const say = useSay();
  const keep = useMutation({
    mutationFn: (said: { rows: Schema["RowTyped"][]; gone: string[]; said: string }) =>
      call<Kept>(`/shelves/${shelf}/rows`, { rows: said.rows, gone: said.gone }),
    onSuccess: (kept, asked) => {
      take(kept);
      if (asked.said) say(asked.said, { act: { label: "Undo", run: () => undo(kept) } });
    },
    onError: (error) => say(sentence(error), { bad: true }),
  });
  const undo = (kept: Kept) =>
    keep.mutate({
      rows: kept.undo.rows ?? [],
      gone: kept.undo.gone ?? [],
      said: "",
    });
  return { ...keep, undo };
}
