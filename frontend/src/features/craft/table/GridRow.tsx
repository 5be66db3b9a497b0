import { type ClipboardEvent, type KeyboardEvent, memo } from "react";
import type { CellName, Cells, RunTable } from "./api";
import { blockOf } from "./block";

export interface RowActs {
  type: (key: string, cell: CellName, text: string) => void;
  paste: (row: number, column: number, block: string[][], text: string) => boolean;
  key: (event: KeyboardEvent<HTMLInputElement>, row: number, column: number) => void;
  leave: (key: string) => void;
  tick: (key: string, on: boolean) => void;
}

interface Props {
  at: number;
  rowKey: string;
  columns: RunTable["columns"];
  /** What is kept, what is typed over it, what of it is wrong. */
  cells: Cells;
  typed: Cells | undefined;
  wrong: Cells | undefined;
  fixed: readonly CellName[];
  /** What the run may lose by a limit of its own; empty where the limit set rules. */
  limit: string;
  ticked: boolean | null;
  name: string;
  acts: RowActs;
}

const FIGURES = new Set<CellName>(["draws", "length", "size", "fuse", "joints"]);
export const WIDTHS: Record<CellName, string> = {
  load: "min-w-36",
  draws: "min-w-20",
  length: "min-w-16",
  cable: "min-w-18",
  size: "min-w-20",
  fuse: "min-w-20",
  joints: "min-w-12",
  panel: "min-w-24",
  critical: "min-w-14",
};

/** One run as a row of boxes; what it cannot change is shown, and stepped over by Tab. */
export const GridRow = memo(function GridRow(props: Props) {
  const { at, rowKey, columns, cells, typed, wrong, fixed, limit, ticked, name, acts } = props;
  const told = columns.map((c) => wrong?.[c.cell]).find(Boolean);
  return (
    <>
      <tr
        className={`border-t border-line ${ticked === null ? "no-print" : ""}`}
        onBlur={(e) => {
          if (!e.currentTarget.contains(e.relatedTarget)) acts.leave(rowKey);
        }}
      >
        <td className="no-print pr-1 text-center">
          {ticked !== null && (
            <input
              type="checkbox"
              aria-label={`Tick ${name}`}
              checked={ticked}
              onChange={(e) => acts.tick(rowKey, e.target.checked)}
              className="size-4"
            />
          )}
        </td>
        {columns.map(({ cell, title }, column) => {
          const stays = fixed.includes(cell);
          const shown = typed?.[cell] ?? cells[cell] ?? "";
          return (
            <td key={cell} className={`p-0 ${WIDTHS[cell]}`}>
              {/* A box cuts what is long: on paper the text itself stands. */}
              <span className="hidden px-1.5 print:inline">{shown}</span>
              <input
                data-cell={`${at} ${column}`}
                aria-label={`${title}, ${name}`}
                value={shown}
                readOnly={stays}
                tabIndex={stays ? -1 : 0}
                placeholder={placeholder(cell, stays)}
                aria-invalid={Boolean(wrong?.[cell])}
                autoComplete="off"
                spellCheck={false}
                onChange={(e) => acts.type(rowKey, cell, e.target.value)}
                onKeyDown={(e) => acts.key(e, at, column)}
                onPaste={(e: ClipboardEvent) => {
                  const text = e.clipboardData.getData("text");
                  const block = blockOf(text);
                  if (block && acts.paste(at, column, block, text)) e.preventDefault();
                }}
                className={`no-print min-h-8 w-full bg-transparent placeholder:font-sans placeholder:text-[12px] px-1.5 outline-offset-[-2px] ${FIGURES.has(cell) ? "num" : ""} ${
                  stays ? "text-soft" : "hover:bg-tint"
                } ${wrong?.[cell] ? "border-2 border-over" : ""} ${typed?.[cell] !== undefined ? "font-bold" : ""}`}
              />
              {cell === "load" && limit && (
                <span className="block px-1.5 pb-1 text-[12px] text-soft">may lose {limit}</span>
              )}
            </td>
          );
        })}
      </tr>
      {told && (
        <tr>
          <td />
          <td colSpan={columns.length} role="alert" className="pb-1 text-[13px] text-over">
            {told}
          </td>
        </tr>
      )}
    </>
  );
});

function placeholder(cell: CellName, stays: boolean): string {
  return !stays && (cell === "size" || cell === "fuse") ? "to be sized" : "";
}
