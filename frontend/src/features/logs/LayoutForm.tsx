import { useEffect, useState } from "react";
import { sentence } from "../../api/client";
import { Button } from "../../ui/Button";
import { Pick } from "../../ui/TextField";
import { type Layout, useBringLog, useLayout } from "./api";

const DELIMITERS = [
  [",", "comma"],
  [";", "semicolon"],
  ["\t", "tab"],
  ["|", "bar"],
] as const;
const KINDS = [
  ["s", "seconds"],
  ["ms", "milliseconds"],
  ["min", "minutes"],
  ["clock", "a clock, 10:02:03.4"],
  ["date", "date and clock"],
] as const;
const UNITS = [
  ["V", "V"],
  ["mV", "mV"],
  ["A", "A"],
  ["mA", "mA"],
  ["K", "K above the cable"],
  ["", "something else"],
] as const;

/** How a file is laid out, as it was guessed; any of it can be corrected before it is brought in. */
export function LayoutForm({
  job,
  file,
  onDone,
  onLeave,
}: {
  job: string;
  file: File;
  onDone: (log: string) => void;
  onLeave: () => void;
}) {
  const look = useLayout(job);
  const bring = useBringLog(job);
  const [layout, setLayout] = useState<Layout | null>(null);
  // What was made of the file last: it stays in sight while it is looked at anew, so that nothing moves.
  const [seen, setSeen] = useState<NonNullable<typeof look.data>>();
  const { mutate } = look;
  useEffect(() => {
    mutate(
      { file },
      {
        onSuccess: (found) => {
          setLayout(found.layout);
          setSeen(found);
        },
      },
    );
  }, [file, mutate]);
  const change = (more: Partial<Layout>) => {
    if (!layout) return;
    const next = { ...layout, ...more };
    setLayout(next);
    if (next.channels.length) mutate({ file, layout: next }, { onSuccess: setSeen });
  };
  const failed = look.error ?? bring.error;
  const columns = Array.from({ length: seen?.columns ?? 0 }, (_, i) => i);
  return (
    <section
      aria-label={`How ${file.name} is laid out`}
      className="mt-3 rounded-lg border border-rule bg-plate p-3"
    >
      <h2 className="font-bold">{file.name}</h2>
      {look.isPending && !layout && <p className="text-soft">Looking at it …</p>}
      {failed && (
        <p role="alert" className="my-2 rounded border border-over bg-over-fill p-2">
          {sentence(failed)}
        </p>
      )}
      {layout && (
        <>
          <Cutting layout={layout} columns={columns} change={change} />
          <Cut layout={layout} columns={columns} rows={seen?.rows ?? []} change={change} />
          <div className="mt-3 flex flex-wrap justify-end gap-2">
            <Button onClick={onLeave}>Cancel</Button>
            <Button
              tone="strong"
              disabled={bring.isPending || layout.channels.length === 0}
              onClick={() =>
                bring.mutate({ file, layout }, { onSuccess: (made) => onDone(made.id) })
              }
            >
              {bring.isPending ? "Reading it …" : "Import"}
            </Button>
          </div>
        </>
      )}
      {!layout && failed && (
        <div className="flex justify-end">
          <Button onClick={onLeave}>Cancel</Button>
        </div>
      )}
    </section>
  );
}

type Change = (more: Partial<Layout>) => void;

/** What parts the columns, what stands before the rows, where the time is. */
function Cutting({
  layout,
  columns,
  change,
}: {
  layout: Layout;
  columns: number[];
  change: Change;
}) {
  return (
    <div className="my-2 grid grid-cols-2 gap-2 sm:grid-cols-5">
      <Pick
        label="Column separator"
        value={layout.delimiter}
        choices={DELIMITERS}
        onPick={(v) => change({ delimiter: v as Layout["delimiter"] })}
      />
      <Pick
        label="Decimal mark"
        value={layout.decimal}
        choices={[
          [".", "point"],
          [",", "comma"],
        ]}
        onPick={(v) => change({ decimal: v as Layout["decimal"] })}
      />
      <Pick
        label="Heading rows to skip"
        value={String(layout.skip)}
        choices={Array.from({ length: Math.max(20, layout.skip + 5) }, (_, i): [string, string] => [
          String(i),
          String(i),
        ])}
        onPick={(v) => change({ skip: Number(v) })}
      />
      <Pick
        label="The time is in"
        value={layout.time_column === null ? "" : String(layout.time_column)}
        choices={[
          ["", "no time column (1 s per row)"],
          ...columns.map((i): [string, string] => [String(i), `column ${i + 1}`]),
        ]}
        onPick={(v) =>
          change(
            v === ""
              ? { time_column: null, time_kind: "rows" }
              : {
                  time_column: Number(v),
                  time_kind: layout.time_kind === "rows" ? "s" : layout.time_kind,
                  channels: layout.channels.filter((c) => c.column !== Number(v)),
                },
          )
        }
      />
      {layout.time_column !== null && (
        <Pick
          label="As"
          value={layout.time_kind}
          choices={KINDS}
          onPick={(v) => change({ time_kind: v as Layout["time_kind"] })}
        />
      )}
    </div>
  );
}

/** The first rows as they are cut; above each column what it is. */
function Cut({
  layout,
  columns,
  rows,
  change,
}: {
  layout: Layout;
  columns: number[];
  rows: string[][];
  change: Change;
}) {
  return (
    <div className="overflow-x-auto">
      <table className="w-full text-[13px]">
        <thead className="text-left align-bottom">
          <tr>
            {columns.map((i) => (
              <th key={i} className="min-w-32 p-1 font-normal">
                {i === layout.time_column ? (
                  <b>time</b>
                ) : (
                  <ColumnHead column={i} layout={layout} change={change} />
                )}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, r) => (
            <tr
              // biome-ignore lint/suspicious/noArrayIndexKey: rows of a file have nothing but their place
              key={r}
              className={`border-t border-line ${r < layout.skip ? "text-soft line-through" : ""}`}
            >
              {columns.map((i) => (
                <td key={i} className="num p-1">
                  {row[i] ?? ""}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** Whether a column is a channel, and what it is called and counted in. */
function ColumnHead({
  column,
  layout,
  change,
}: {
  column: number;
  layout: Layout;
  change: Change;
}) {
  const channel = layout.channels.find((c) => c.column === column);
  const toggle = () => {
    const without = layout.channels.filter((c) => c.column !== column);
    const made = { column, name: `channel ${column + 1}`, unit: "V" as const };
    change({
      channels: channel ? without : [...without, made].sort((a, b) => a.column - b.column),
    });
  };
  const say = (more: Partial<Layout["channels"][number]>) =>
    change({ channels: layout.channels.map((c) => (c.column === column ? { ...c, ...more } : c)) });
  return (
    <>
      <label className="flex min-h-11 items-center gap-1 lg:min-h-8">
        <input type="checkbox" checked={Boolean(channel)} onChange={toggle} className="size-5" />
        column {column + 1}
      </label>
      {channel && (
        <>
          <input
            aria-label={`name of column ${column + 1}`}
            value={channel.name}
            maxLength={60}
            onChange={(e) => say({ name: e.target.value || " " })}
            className="min-h-11 w-full rounded border border-rule bg-canvas px-1 lg:min-h-8"
          />
          <Pick
            label="Unit"
            value={channel.unit}
            choices={UNITS}
            onPick={(v) => say({ unit: v as Layout["channels"][number]["unit"] })}
          />
        </>
      )}
    </>
  );
}
