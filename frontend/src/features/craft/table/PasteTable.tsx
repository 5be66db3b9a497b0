import { useEffect, useState } from "react";
import { sentence } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { OverSheet } from "../../../ui/Dialog";
import { TextField } from "../../../ui/TextField";
import { useSay } from "../../../ui/told/Notices";
import { undoDrawn, useCraftStep } from "../api";
import { type RunTable, useKeepRows, useReadTable } from "./api";
import { Preview } from "./Preview";

interface Props {
  table: RunTable;
  given: string;
  onClose: () => void;
}

const EXAMPLE = "Load\tA\tLength\tPanel\tMust not fail\nCold box\t5\t6\tPanel\t\n…";

/** A table from a spreadsheet: looked at cell by cell, and kept only when it is taken. */
export function PasteTable({ table, given, onClose }: Props) {
  const [text, setText] = useState(given);
  const [panels, setPanels] = useState<Record<string, string>>({});
  const read = useReadTable(table.job, table.stage);
  const keep = useKeepRows(table.job, table.stage);
  const step = useCraftStep(table.job);
  const say = useSay();
  const { mutate: look, reset } = read;
  useEffect(() => {
    if (text.trim()) look(text);
    else reset();
  }, [text, look, reset]);
  const seen = text.trim() ? read.data : undefined;
  const good = seen?.rows.filter((row) => row.good) ?? [];
  const far = (seen?.panels ?? []).every((name) => panels[name]?.trim());
  const takeIt = async () => {
    const rows = good.map((row) => ({
      run: null,
      cells: Object.fromEntries(Object.entries(row.cells).map(([cell, { text }]) => [cell, text])),
    }));
    const made = await keep.mutateAsync({ rows, panels }).catch(() => null);
    if (!made) return;
    const undo = () => void undoDrawn(step, made);
    say(made.said, { act: { label: "Undo", run: undo } });
    onClose();
  };
  const failed = (text.trim() && read.error) || keep.error;
  return (
    <OverSheet
      open
      wide
      onClose={onClose}
      title="Runs from a spreadsheet"
      says="Paste rows with a head line, or open a CSV. Columns are found by their heads, in any order: load, A or W, length, cable, size, fuse, joints, panel, must not fail. Any may be missing but load, what it draws and length."
    >
      <div className="space-y-3">
        <textarea
          aria-label="The table"
          value={text}
          rows={5}
          placeholder={EXAMPLE}
          spellCheck={false}
          onChange={(e) => setText(e.target.value)}
          className="num block w-full resize-y rounded border border-rule bg-plate p-2 text-[14px]"
        />
        <input
          type="file"
          accept=".csv,.tsv,.txt,text/csv,text/plain"
          aria-label="CSV file"
          className="block w-full rounded border border-dashed border-rule bg-plate p-2 file:mr-3 file:min-h-8 file:rounded file:border file:border-rule file:px-2.5 file:font-bold"
          onChange={async (e) => {
            const file = e.target.files?.[0];
            if (file) setText(await file.text());
          }}
        />
        {failed && (
          <p role="alert" className="text-over">
            {sentence(failed)}
          </p>
        )}
        {seen && <Preview table={table} seen={seen} />}
        {seen && (
          <form
            className="space-y-3"
            onSubmit={(e) => {
              e.preventDefault();
              if (!keep.isPending && good.length > 0 && far) void takeIt();
            }}
          >
            {seen.panels.map((name, i) => (
              <TextField
                key={name}
                label={`Nothing feeds ${name} yet. How far is it from the source?`}
                hint="2.5 m"
                numeric
                autoFocus={i === 0 && given !== ""}
                value={panels[name] ?? ""}
                onChange={(said) => setPanels((was) => ({ ...was, [name]: said }))}
              />
            ))}
            <Button
              type="submit"
              tone="strong"
              disabled={keep.isPending || good.length === 0 || !far}
            >
              Add {good.length} {good.length === 1 ? "run" : "runs"}
            </Button>
            {good.length < seen.rows.length && (
              <span className="ml-3 text-soft">
                {seen.rows.length - good.length} with something wrong{" "}
                {seen.rows.length - good.length === 1 ? "is" : "are"} left out; put it right above.
              </span>
            )}
          </form>
        )}
      </div>
    </OverSheet>
  );
}
