import { useRef, useState } from "react";
import { Refused, sentence } from "../../../api/client";
import { useSay } from "../../../ui/told/Notices";
import { undoDrawn, useCraftStep } from "../api";
import { type CellName, type Cells, type RowSent, type RunTable, useKeepRows } from "./api";

/** What a run needs before it can be drawn. */
const NEEDED: CellName[] = ["load", "draws", "length"];
export const isNew = (key: string) => key.startsWith("new ");

/**
 * What is typed over a table of runs and not kept yet, by row; what was wrong with it, by row and cell. A row goes out
 * when it is left; what is refused stays as it was typed.
 */
export function useGrid(table: RunTable) {
  const [typed, setTyped] = useState<Record<string, Cells>>({});
  const [wrong, setWrong] = useState<Record<string, Cells>>({});
  const [panels, setPanels] = useState<Record<string, string>>({});
  const [count, setCount] = useState(1);
  const keep = useKeepRows(table.job, table.stage);
  const step = useCraftStep(table.job);
  const say = useSay();
  // A row that is on its way does not go out a second time.
  const going = useRef(new Set<string>());
  const now = useRef(typed);
  now.current = typed;

  const newKeys = Array.from({ length: count }, (_, i) => `new ${i}`).filter(
    (key) => typed[key] || key === `new ${count - 1}`,
  );
  const last = table.rows.at(-1)?.cells.panel ?? "";
  /** A new row begins at the panel of the one before, until it says another. */
  const panelOf = (key: string): string => {
    for (let at = newKeys.indexOf(key) - 1; at >= 0; at--) {
      const said = typed[newKeys[at] ?? ""]?.panel;
      if (said !== undefined) return said;
    }
    return last;
  };
  const type = (key: string, cell: CellName, text: string) => {
    setTyped((was) => ({ ...was, [key]: { ...was[key], [cell]: text } }));
    setWrong((was) => ({ ...was, [key]: { ...was[key], [cell]: "" } }));
    if (key === `new ${count - 1}`) setCount((n) => n + 1);
  };
  const drop = (keys: string[]) => {
    setTyped((was) => Object.fromEntries(Object.entries(was).filter(([k]) => !keys.includes(k))));
    setWrong((was) => Object.fromEntries(Object.entries(was).filter(([k]) => !keys.includes(k))));
  };
  const unfed = [
    ...new Set(newKeys.filter((key) => typed[key]).map((key) => typed[key]?.panel ?? panelOf(key))),
  ].filter((name) => name && !table.panels.some((p) => same(p, name)));

  /** Keeps rows that are ready, in one change; the others wait. */
  const send = async (keys: string[], over: Record<string, Cells> = {}) => {
    const all = { ...now.current, ...over };
    const ready = keys.filter((key) => !going.current.has(key) && all[key] && isReady(key, all));
    if (ready.length === 0) return;
    for (const key of ready) going.current.add(key);
    const rows: RowSent[] = ready.map((key) =>
      isNew(key)
        ? { run: null, cells: { ...all[key], panel: all[key]?.panel ?? panelOf(key) } }
        : { run: key, cells: all[key] ?? {} },
    );
    try {
      const made = await keep.mutateAsync({ rows, panels, onKept: () => drop(ready) });
      if (made.stages.length > 0) {
        const undo = () => void undoDrawn(step, made);
        say(made.said, { act: { label: "Undo", run: undo } });
      }
    } catch (error) {
      const named = error instanceof Refused ? error.errors[0]?.field.match(ROW_CELL) : null;
      const key = named ? ready[Number(named[1])] : undefined;
      if (named && key) {
        setWrong((was) => ({ ...was, [key]: { [named[2] as CellName]: sentence(error) } }));
      } else say(sentence(error), { bad: true });
    } finally {
      for (const key of ready) going.current.delete(key);
    }
  };
  const isReady = (key: string, all: Record<string, Cells>) =>
    !isNew(key) ||
    (NEEDED.every((cell) => all[key]?.[cell]?.trim()) &&
      [all[key]?.panel ?? panelOf(key)].every(
        (name) => !name || table.panels.some((p) => same(p, name)) || panels[name]?.trim(),
      ));
  return {
    typed,
    wrong,
    panels,
    unfed,
    keys: [...table.rows.map((r) => r.run), ...newKeys],
    panelOf,
    type,
    drop,
    send,
    setPanels,
    pending: keep.isPending,
    undo: () => step.mutate({ stage: table.stage, direction: "undo" }),
    /** Types a block of cells from a place on, over rows that are there and into new ones. */
    fill(row: number, column: number, block: string[][]) {
      const columns = table.columns.map((c) => c.cell);
      const every = [...table.rows.map((r) => r.run), ...newKeys];
      const over: Record<string, Cells> = {};
      block.forEach((cells, i) => {
        const key = every[row + i] ?? `new ${count + row + i - every.length}`;
        const fixed = table.rows.find((r) => r.run === key)?.fixed ?? [];
        const said = cells.flatMap((text, j): [CellName, string][] => {
          const cell = columns[column + j];
          return cell && !fixed.includes(cell) ? [[cell, text]] : [];
        });
        over[key] = { ...typed[key], ...Object.fromEntries(said) };
      });
      setTyped((was) => ({ ...was, ...over }));
      const beyond = Math.max(0, row + block.length - every.length);
      setCount((n) => n + beyond + 1);
      return send(Object.keys(over), over);
    },
  };
}

export type Grid = ReturnType<typeof useGrid>;
const ROW_CELL = /^rows\[(\d+)\]\.(\w+)$/;

/** Whether two names mean one panel: a sign at the end is not always said, and a hyphen is a minus. */
function same(known: string, said: string): boolean {
  const plain = (name: string) => name.toLowerCase().replace("−", "-").trim();
  return plain(known) === plain(said) || plain(known) === `${plain(said)} +`;
}
