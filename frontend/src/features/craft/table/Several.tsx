import { useState } from "react";
import { sentence } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { Pick } from "../../../ui/TextField";
import { useSay } from "../../../ui/told/Notices";
import { type CellName, type RunTable, useHold } from "./api";
import type { Grid } from "./useGrid";

const SETTABLE: [CellName | "limit", string][] = [
  ["size", "size"],
  ["fuse", "fuse"],
  ["cable", "cable"],
  ["critical", "must not fail"],
  ["limit", "limit, feed and return together"],
];
const HINTS: Partial<Record<CellName | "limit", string>> = {
  size: "to be sized",
  fuse: "to be sized",
  limit: "5 % or 0.4 V",
};

interface Props {
  grid: Grid;
  table: RunTable;
  ticked: ReadonlySet<string>;
  onDone: () => void;
}

/** One cell of all rows that are ticked, set at once and undone at once. */
export function Several({ grid, table, ticked, onDone }: Props) {
  const [cell, setCell] = useState<CellName | "limit">("size");
  const [text, setText] = useState("");
  const hold = useHold(table.job);
  const say = useSay();
  const runs = table.rows.filter((r) => ticked.has(r.run));
  const able = runs.filter((r) => cell === "limit" || !r.fixed.includes(cell)).map((r) => r.run);
  const limit = () =>
    hold.mutate(
      { loads: able, limit: text },
      {
        onSuccess: ({ said, before }) => {
          const act = { label: "Undo", run: () => hold.mutate({ own: before }) };
          say(said, { act });
          onDone();
        },
        onError: (error) => say(sentence(error), { bad: true }),
      },
    );
  if (runs.length === 0) return null;
  return (
    <form
      aria-label="Ticked runs"
      className="flex flex-wrap items-end gap-2 rounded border border-rule p-2"
      onSubmit={async (e) => {
        e.preventDefault();
        if (cell === "limit") return limit();
        const over = Object.fromEntries(
          able.map((run) => [run, { ...grid.typed[run], [cell]: text }]),
        );
        await grid.send(able, over);
        onDone();
      }}
    >
      <Pick
        label={`Of ${runs.length} ticked ${runs.length === 1 ? "run" : "runs"}, set`}
        value={cell}
        choices={SETTABLE}
        onPick={setCell}
      />
      <label className="flex flex-col text-[13px] text-soft">
        To
        <input
          value={text}
          placeholder={HINTS[cell] ?? ""}
          onChange={(e) => setText(e.target.value)}
          className="num min-h-11 w-36 rounded border border-rule bg-plate px-2 text-ink lg:min-h-8"
        />
      </label>
      <Button type="submit" disabled={grid.pending || hold.isPending || able.length === 0}>
        Set
      </Button>
      {cell === "limit" && <p className="text-[13px] text-soft">Empty: as the limit set says.</p>}
      {able.length < runs.length && (
        <p className="text-[13px] text-soft">
          {runs.length - able.length} of them can't be changed here.
        </p>
      )}
    </form>
  );
}
