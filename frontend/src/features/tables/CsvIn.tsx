import { Download, FileUp } from "lucide-react";
import { useRef, useState } from "react";
import { Refused, sentence } from "../../api/client";
import { Button } from "../../ui/Button";
import { OverSheet } from "../../ui/Dialog";
import { useSay } from "../../ui/told/Notices";
import { csvAddress, type Table, useBringRows, useKeepRows } from "./api";

/** A table in and out as CSV: from a file or pasted; all of it or nothing, troubles by their line. */
export function CsvIn({ table }: { table: Table }) {
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const picker = useRef<HTMLInputElement>(null);
  const say = useSay();
  const { undo } = useKeepRows(table.id);
  const bring = useBringRows(table.id);
  const take = () =>
    bring.mutate(text, {
      onSuccess: (kept) => {
        setOpen(false);
        setText("");
        say(`${kept.kept.length} ${kept.kept.length === 1 ? "row" : "rows"} brought in.`, {
          act: { label: "Undo", run: () => undo(kept) },
        });
      },
    });
  const head = table.columns.map((c) => c.key).join(",");
  const errors = bring.error instanceof Refused ? bring.error.errors : [];
  return (
    <div className="flex flex-wrap items-center gap-1">
      <Button onClick={() => setOpen(true)}>
        <FileUp size={15} aria-hidden /> Import CSV
      </Button>
      <a
        href={csvAddress(table.id)}
        download
        className="inline-flex min-h-11 items-center gap-1.5 rounded border border-rule bg-plate px-2.5 font-bold lg:min-h-8"
      >
        <Download size={15} aria-hidden /> Export CSV
      </a>
      <OverSheet
        open={open}
        onClose={() => setOpen(false)}
        title={`Bring in rows: ${table.name}`}
        says="The first line names the columns. A row with the key of a shipped one stands in for it. All rows are taken, or none."
      >
        <input
          ref={picker}
          type="file"
          accept=".csv,text/csv,text/plain"
          aria-label="CSV file"
          className="mb-2 block w-full rounded border border-dashed border-rule bg-plate p-2 file:mr-3 file:min-h-8 file:rounded file:border file:border-rule file:px-2.5 file:font-bold"
          onChange={async (e) => {
            const file = e.target.files?.[0];
            if (file) setText(await file.text());
            e.target.value = "";
            bring.reset();
          }}
        />
        <textarea
          aria-label="Or paste it here"
          value={text}
          onChange={(e) => {
            setText(e.target.value);
            bring.reset();
          }}
          rows={8}
          spellCheck={false}
          placeholder={head}
          className="num w-full rounded border border-rule bg-plate p-2 text-[13px]"
        />
        {bring.isError && (
          <div role="alert" className="mt-2 rounded border border-over p-2">
            <p className="font-bold text-over">
              {errors.length > 1 ? `${errors.length} things are wrong.` : sentence(bring.error)}{" "}
              Nothing was kept.
            </p>
            <ul className="max-h-48 overflow-auto">
              {errors.map((e) => (
                <li key={`${e.field} ${e.problem}`}>
                  <b className="num">{e.field}</b> {e.problem}
                  {e.accepted && <span className="text-soft"> — accepted: {e.accepted}</span>}
                </li>
              ))}
            </ul>
          </div>
        )}
        <div className="mt-3 flex justify-end gap-2">
          <Button onClick={() => setOpen(false)}>Cancel</Button>
          <Button tone="strong" disabled={!text.trim() || bring.isPending} onClick={take}>
            Import all rows
          </Button>
        </div>
      </OverSheet>
    </div>
  );
}
