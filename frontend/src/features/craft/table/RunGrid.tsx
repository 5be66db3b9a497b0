import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import { Button } from "../../../ui/Button";
import type { Craft } from "../api";
import { type Cells, type RunTable, useRunTable } from "./api";
import { hasHeads } from "./block";
import { GridRow, type RowActs } from "./GridRow";
import { PanelsAsked } from "./PanelsAsked";
import { PasteTable } from "./PasteTable";
import { Several } from "./Several";
import { isNew, useGrid } from "./useGrid";

/** The runs of a craft as a spreadsheet: typed in place, pasted in blocks, several changed at once. */
export function RunGrid({ craft }: { craft: Craft }) {
  const table = useRunTable(craft.job, craft.stage);
  if (!table.data) return <p className="text-soft">Opening the table …</p>;
  return <Opened table={table.data} />;
}

function Opened({ table }: { table: RunTable }) {
  const grid = useGrid(table);
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const [pasted, setPasted] = useState<string | null>(null);
  const body = useRef<HTMLTableSectionElement>(null);
  const columns = table.columns;
  const focus = (row: number, column: number) => {
    const box = body.current?.querySelector<HTMLInputElement>(`[data-cell="${row} ${column}"]`);
    box?.focus();
    box?.select();
  };
  // Whoever opens an empty table is about to type into it, or to paste.
  const empty = useRef(table.rows.length === 0);
  useEffect(() => {
    if (empty.current) body.current?.querySelector("input")?.focus();
  }, []);
  const shown = (row: number, column: number) => {
    const key = grid.keys[row] ?? "";
    const cell = columns[column]?.cell ?? "load";
    const kept = table.rows.find((r) => r.run === key)?.cells as Cells | undefined;
    return grid.typed[key]?.[cell] ?? kept?.[cell] ?? "";
  };
  const key = (event: KeyboardEvent<HTMLInputElement>, row: number, column: number) => {
    const box = event.currentTarget;
    const here = grid.keys[row] ?? "";
    const edge = { ArrowLeft: 0, ArrowRight: box.value.length }[event.key];
    const beside = edge !== undefined && box.selectionStart === edge && box.selectionEnd === edge;
    const step = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (step) focus(row + step, column);
    else if (beside) focus(row, column + (event.key === "ArrowLeft" ? -1 : 1));
    else if (event.key === "Enter") focus(row + 1, isNew(here) ? 0 : column);
    else if (event.key === "Escape" && grid.typed[here]) grid.drop([here]);
    else if (event.ctrlKey && event.key.toLowerCase() === "d" && row > 0) {
      const cell = columns[column]?.cell;
      if (cell && !box.readOnly) grid.type(here, cell, shown(row - 1, column));
    } else if (event.ctrlKey && event.key.toLowerCase() === "z" && !grid.typed[here]) grid.undo();
    else return;
    event.preventDefault();
  };
  const acts: RowActs = {
    type: grid.type,
    key,
    leave: (rowKey) => void grid.send([rowKey]),
    tick: (rowKey, on) =>
      setTicked((was) => new Set(on ? [...was, rowKey] : [...was].filter((k) => k !== rowKey))),
    paste: (row, column, block, text) => {
      // A table with heads is looked at first: its columns may stand in any order.
      if (hasHeads(block)) setPasted(text);
      else void grid.fill(row, column, block);
      return true;
    },
  };
  return (
    <section aria-label="Runs as a table" className="min-w-0 space-y-2">
      <div className="flex flex-wrap items-center gap-2">
        <h2 className="mr-auto font-bold">Runs as a table</h2>
        <Button className="no-print" onClick={() => setPasted("")}>
          Paste a table or open a CSV …
        </Button>
        {table.rows.length > 0 && (
          <a
            className="no-print inline-flex min-h-11 items-center px-2 text-slate underline lg:min-h-8"
            href={`/api/v1/jobs/${table.job}/run-table/csv?stage=${table.stage}`}
          >
            Save as CSV
          </a>
        )}
      </div>
      <div className="relative overflow-x-auto rounded border border-rule bg-plate">
        <table className="w-full">
          <thead className="text-left text-[13px] text-soft">
            <tr>
              <td className="no-print w-6" />
              {columns.map((c) => (
                <th key={c.cell} scope="col" className="px-1.5 py-1 font-normal">
                  {c.title}
                </th>
              ))}
            </tr>
          </thead>
          <tbody ref={body}>
            {grid.keys.map((rowKey, at) => {
              const kept = table.rows.find((r) => r.run === rowKey);
              const begun: Cells = grid.typed[rowKey] ? { panel: grid.panelOf(rowKey) } : {};
              const cells = (kept?.cells as Cells | undefined) ?? begun;
              return (
                <GridRow
                  key={rowKey}
                  at={at}
                  rowKey={rowKey}
                  columns={columns}
                  cells={cells}
                  typed={grid.typed[rowKey]}
                  wrong={grid.wrong[rowKey]}
                  fixed={kept?.fixed ?? []}
                  limit={kept?.limit ?? ""}
                  ticked={kept ? ticked.has(rowKey) : null}
                  name={kept?.cells.load ?? grid.typed[rowKey]?.load ?? "next run"}
                  acts={acts}
                />
              );
            })}
          </tbody>
        </table>
      </div>
      <PanelsAsked grid={grid} />
      <Several grid={grid} table={table} ticked={ticked} onDone={() => setTicked(new Set())} />
      <p className="no-print text-[13px] text-soft">
        A row is kept when you leave it. Leave size and fuse empty to have them sized. Arrows move,
        Enter goes on, Ctrl D takes what is above, Esc takes back what is not kept.
      </p>
      {pasted !== null && (
        <PasteTable table={table} given={pasted} onClose={() => setPasted(null)} />
      )}
    </section>
  );
}
