import { useMutation } from "@tanstack/react-query";
import { Copy, Pencil, Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { call, type Schema } from "../../api/client";
import { Button } from "../../ui/Button";
import { OverSheet } from "../../ui/Dialog";
import { Pick, TextField } from "../../ui/TextField";
import { wrongElsewhere, wrongWith } from "../../ui/wrong";
import { useKeepRows, useTakeKept } from "./useKeepRows";

type Shelf = Schema["ShelfOfRows"];
type Row = Shelf["rows"][number];
interface Editing {
  was: string | null;
  cells: Record<string, string>;
}

/** The rows of one table. Own rows can be changed; any row can be taken as the start of an own one. */
export function RowsTable({ shelf, rows }: { shelf: Shelf; rows: Row[] }) {
  const [editing, setEditing] = useState<Editing | null>(null);
  const keep = useKeepRows(shelf.id);
  const empty = Object.fromEntries(shelf.columns.map((c) => [c.key, c.choices[0] ?? ""]));
  const sets = shelf.id === "limit_sets";
  return (
    <>
      <div className="overflow-x-auto">
        <table className="w-full">
          <thead className="text-left text-[13px] text-soft">
            <tr>
              {shelf.columns.map((c) => (
                <th key={c.key} className={`pr-3 font-normal ${c.number ? "text-right" : ""}`}>
                  {c.head}
                </th>
              ))}
              <th>
                <span className="sr-only">what can be done</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr
                key={row.key}
                className={`border-t border-line align-top ${row.own ? "bg-tint" : ""}`}
              >
                {shelf.columns.map((c, i) => (
                  <td
                    key={c.key}
                    className={`py-1 pr-3 ${c.number ? "num text-right" : ""} ${c.key === "line" ? "num text-[13px]" : ""} ${c.key === "source" || c.key === "why" || c.key === "note" ? "text-[13px] text-soft" : ""}`}
                  >
                    {c.choices.length > 0
                      ? row.cells[c.key]?.replaceAll("_", " ")
                      : row.cells[c.key]}
                    {i === 0 && row.own && (
                      <span className="ml-1 text-[12px] text-slate">
                        {row.instead ? "own, instead of the shipped one" : "own"}
                      </span>
                    )}
                  </td>
                ))}
                <td className="py-0.5 text-right whitespace-nowrap">
                  {row.own && (
                    <>
                      <Button
                        tone="quiet"
                        className="px-1.5"
                        aria-label={`Change ${row.key}`}
                        onClick={() => setEditing({ was: row.key, cells: row.cells })}
                      >
                        <Pencil size={14} aria-hidden />
                      </Button>
                      <Button
                        tone="quiet"
                        className="px-1.5"
                        aria-label={`Take ${row.key} off`}
                        onClick={() =>
                          keep.mutate({ rows: [], gone: gone(shelf, row), said: "Taken off." })
                        }
                      >
                        <Trash2 size={14} aria-hidden />
                      </Button>
                    </>
                  )}
                  {!sets && (
                    <Button
                      tone="quiet"
                      className="px-1.5"
                      aria-label={`An own row from ${row.key}`}
                      title="An own row from this one"
                      onClick={() => setEditing({ was: null, cells: row.cells })}
                    >
                      <Copy size={14} aria-hidden />
                    </Button>
                  )}
                  {sets && <CopySet row={row} shelf={shelf} />}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {rows.length === 0 && <p className="py-4 text-soft">No row here holds that.</p>}
      <Button className="mt-2" onClick={() => setEditing({ was: null, cells: empty })}>
        <Plus size={15} aria-hidden /> A row of our own
      </Button>
      {editing && <RowForm shelf={shelf} editing={editing} onClose={() => setEditing(null)} />}
    </>
  );
}

/** A limit set is only whole with all its rows: it goes as it came. */
function gone(shelf: Shelf, row: Row): string[] {
  if (shelf.id !== "limit_sets") return [row.key];
  return shelf.rows.filter((r) => r.own && r.cells.set === row.cells.set).map((r) => r.key);
}

/** A copy of a whole limit set under a name of one's own, single-piece ceilings and all. */
function CopySet({ row, shelf }: { row: Row; shelf: Shelf }) {
  const take = useTakeKept();
  const first = shelf.rows.find((r) => r.cells.set === row.cells.set);
  const copy = useMutation({
    mutationFn: async () => {
      const taken = new Set(shelf.rows.map((r) => r.cells.set));
      let number = 1;
      while (taken.has(`${row.cells.set}-own-${number}`)) number += 1;
      const set = `${row.cells.set}-own-${number}`;
      const name = `${row.cells.name}, ours`;
      const rows = shelf.rows
        .filter((r) => r.cells.set === row.cells.set)
        .map((r) => ({ cells: { ...r.cells, set, name } }));
      const kept = await call<Schema["KeptRows"]>("/shelves/limit_sets/rows", { rows });
      const all = await call<Schema["ShelvesOut"]>("/shelves");
      const singles = all.shelves
        .find((s) => s.id === "single_limits")
        ?.rows.filter((r) => r.cells.set === row.cells.set)
        .map((r) => ({ cells: { ...r.cells, set } }));
      if (singles?.length)
        take(await call<Schema["KeptRows"]>("/shelves/single_limits/rows", { rows: singles }));
      return kept;
    },
    onSuccess: (kept) => take(kept),
  });
  if (first?.key !== row.key) return null;
  return (
    <Button
      tone="quiet"
      className="px-1.5"
      aria-label={`A copy of ${row.cells.name} to change`}
      title="A copy of the whole set, to change"
      disabled={copy.isPending}
      onClick={() => copy.mutate()}
    >
      <Copy size={14} aria-hidden />
    </Button>
  );
}

function RowForm({
  shelf,
  editing,
  onClose,
}: {
  shelf: Shelf;
  editing: Editing;
  onClose: () => void;
}) {
  const [cells, setCells] = useState(editing.cells);
  const take = useTakeKept();
  const keep = useMutation({
    mutationFn: () =>
      call<Schema["KeptRows"]>(`/shelves/${shelf.id}/rows`, {
        rows: [{ was: editing.was, cells }],
      }),
    onSuccess: (kept) => {
      take(kept);
      onClose();
    },
  });
  const set = (key: string, value: string) => setCells((now) => ({ ...now, [key]: value }));
  const keys = shelf.columns.map((c) => c.key);
  return (
    <OverSheet
      open
      onClose={onClose}
      title={editing.was ? "Change this row" : "A row of our own"}
      says="With the key of a shipped row it stands in for that one."
    >
      <form
        className="grid grid-cols-2 gap-x-3 gap-y-2"
        onSubmit={(e) => {
          e.preventDefault();
          keep.mutate();
        }}
      >
        {shelf.columns.map((c) =>
          c.choices.length > 0 ? (
            <Pick
              key={c.key}
              label={c.head}
              value={cells[c.key] ?? ""}
              choices={c.choices.map((each): [string, string] => [each, each.replaceAll("_", " ")])}
              onPick={(value) => set(c.key, value)}
            />
          ) : (
            <TextField
              key={c.key}
              className={
                c.key === "line" || c.key === "why" || c.key === "source" ? "col-span-2" : ""
              }
              label={c.wanted ? c.head : `${c.head} (may be empty)`}
              numeric={c.number || c.key === "line"}
              long={c.key === "line"}
              value={cells[c.key] ?? ""}
              onChange={(value) => set(c.key, value)}
              wrong={wrongWith(keep.error, c.key)}
            />
          ),
        )}
        {wrongElsewhere(keep.error, keys) && (
          <p role="alert" className="col-span-2 text-over">
            {wrongElsewhere(keep.error, keys)}
          </p>
        )}
        <div className="col-span-2 mt-2 flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button tone="strong" type="submit" disabled={keep.isPending}>
            Keep
          </Button>
        </div>
      </form>
    </OverSheet>
  );
}
