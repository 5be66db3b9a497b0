import { Copy, Pencil, Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { Button } from "../../ui/Button";
import { OverSheet } from "../../ui/Dialog";
import { Pick, TextField } from "../../ui/TextField";
import { TipButton } from "../../ui/TipButton";
import { WrongElsewhere } from "../../ui/told/WrongElsewhere";
import { wrongWith } from "../../ui/told/wrong";
import { type Table, useCopySet, useKeepRow, useKeepRows } from "./api";

type Row = Table["rows"][number];
interface Editing {
  was: string | null;
  cells: Record<string, string>;
}

/** The rows of one table. Own rows can be changed; any row can be taken as the start of an own one. */
export function RowsTable({ table, rows }: { table: Table; rows: Row[] }) {
  const [editing, setEditing] = useState<Editing | null>(null);
  const keep = useKeepRows(table.id);
  const empty = Object.fromEntries(table.columns.map((c) => [c.key, c.choices[0] ?? ""]));
  const sets = table.id === "limit_sets";
  return (
    <>
      <div className="relative overflow-x-auto">
        <table className="w-full">
          <thead className="text-left text-[13px] text-soft">
            <tr>
              {table.columns.map((c) => (
                <th
                  key={c.key}
                  className={`pr-3 font-normal first-letter:uppercase ${c.number ? "text-right" : ""}`}
                >
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
                {table.columns.map((c, i) => (
                  <td
                    key={c.key}
                    className={`py-1 pr-3 ${c.number ? "num text-right" : ""} ${c.key === "line" ? "num text-[13px]" : ""} ${c.key === "source" || c.key === "why" || c.key === "note" ? "text-[13px] text-soft" : ""}`}
                  >
                    {c.choices.length > 0
                      ? row.cells[c.key]?.replaceAll("_", " ")
                      : row.cells[c.key]}
                    {i === 0 && row.own && (
                      <span className="ml-1 text-[12px] text-slate">
                        {row.instead ? "yours, replaces the built-in row" : "own"}
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
                          keep.mutate({ rows: [], gone: gone(table, row), said: "Taken off." })
                        }
                      >
                        <Trash2 size={14} aria-hidden />
                      </Button>
                    </>
                  )}
                  {!sets && (
                    <TipButton
                      tone="quiet"
                      className="px-1.5"
                      aria-label={`An own row from ${row.key}`}
                      tip="An own row from this one"
                      onClick={() => setEditing({ was: null, cells: row.cells })}
                    >
                      <Copy size={14} aria-hidden />
                    </TipButton>
                  )}
                  {sets && <CopySet row={row} table={table} />}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {rows.length === 0 && <p className="py-4 text-soft">No matching rows.</p>}
      <Button className="mt-2" onClick={() => setEditing({ was: null, cells: empty })}>
        <Plus size={15} aria-hidden /> A row of our own
      </Button>
      {editing && <RowForm table={table} editing={editing} onClose={() => setEditing(null)} />}
    </>
  );
}

/** A limit set is only whole with all its rows: it goes as it came. */
function gone(table: Table, row: Row): string[] {
  if (table.id !== "limit_sets") return [row.key];
  return table.rows.filter((r) => r.own && r.cells.set === row.cells.set).map((r) => r.key);
}

/** A copy of a whole limit set under a name of one's own, single-piece ceilings and all. */
function CopySet({ row, table }: { row: Row; table: Table }) {
  const first = table.rows.find((r) => r.cells.set === row.cells.set);
  const copy = useCopySet();
  const start = () => {
    const from = row.cells.set ?? "";
    const taken = new Set(table.rows.map((r) => r.cells.set));
    let number = 1;
    while (taken.has(`${from}-own-${number}`)) number += 1;
    const set = `${from}-own-${number}`;
    const rows = table.rows
      .filter((r) => r.cells.set === from)
      .map((r) => ({ was: null, cells: { ...r.cells, set, name: `${row.cells.name}, ours` } }));
    copy.mutate({ rows, from, name: set });
  };
  if (first?.key !== row.key) return null;
  return (
    <TipButton
      tone="quiet"
      className="px-1.5"
      aria-label={`A copy of ${row.cells.name} to change`}
      tip="A copy of the whole set, to change"
      disabled={copy.isPending}
      onClick={start}
    >
      <Copy size={14} aria-hidden />
    </TipButton>
  );
}

function RowForm({
  table,
  editing,
  onClose,
}: {
  table: Table;
  editing: Editing;
  onClose: () => void;
}) {
  const [cells, setCells] = useState(editing.cells);
  const keep = useKeepRow(table.id);
  const set = (key: string, value: string) => setCells((now) => ({ ...now, [key]: value }));
  const keys = table.columns.map((c) => c.key);
  return (
    <OverSheet
      open
      onClose={onClose}
      title={editing.was ? "Change this row" : "A row of our own"}
      says="With the same key as a built-in row, it replaces that row."
    >
      <form
        className="grid grid-cols-2 gap-x-3 gap-y-2"
        onSubmit={(e) => {
          e.preventDefault();
          keep.mutate([{ was: editing.was, cells }], { onSuccess: onClose });
        }}
      >
        {table.columns.map((c) =>
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
        <WrongElsewhere error={keep.error} fields={keys} />
        <div className="col-span-2 mt-2 flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button tone="strong" type="submit" disabled={keep.isPending}>
            Save
          </Button>
        </div>
      </form>
    </OverSheet>
  );
}
