import { Minus, Plus } from "lucide-react";
import { useState } from "react";
import type { Column, Edit, Schema } from "../../../api/client";
import { volts } from "../../../format/format";
import { Button } from "../../../ui/Button";
import { Pick } from "../../../ui/TextField";
import { Working } from "../../../ui/told/Working";
import { Photographs } from "../../photographs/Photographs";
import { useChoices } from "../api";
import { useDesk } from "../desk";
import { ColumnActions } from "./ColumnActions";
import { Field } from "./Field";
import { WhatIf } from "./WhatIf";

const KINDS: [Column["kind"], string][] = [
  ["conductor", "wire"],
  ["joint", "joint"],
  ["fuse", "fuse"],
  ["breaker", "breaker"],
  ["switch", "switch"],
  ["relay_contact", "relay contact"],
  ["body_return", "body return"],
  ["resistor", "dropping resistor"],
];
const ACCESS = { open: "in the open", backprobe: "back-probe", trim: "behind trim" };

/** The chosen piece: its figures to change, its working to read. Without one, the run's working. */
export function Inspector() {
  const { sheet, selected } = useDesk();
  const { run } = sheet;
  const column = run.columns.find((c) => c.id === selected);
  if (column?.load) return <InSeries column={column} run={column.load} />;
  if (column) return <PieceInspector key={column.id} column={column} />;
  if (selected === run.load.id) return <LoadInspector key={run.load.id} />;
  if (selected === run.source.id) return <SourceInspector key={run.source.id} />;
  return (
    <section aria-label="How the run's figures came about">
      <h2 className="mb-1 font-bold">{run.load.name}</h2>
      <p className="mb-2 text-soft">
        Choose a piece above to change it; press any number to see where it comes from.
      </p>
      <Working lines={run.working} />
      <WhatIf piece={null} />
    </section>
  );
}

/** Another load on the way: it has a run, and so a sheet, of its own. */
function InSeries({ column, run }: { column: Column; run: string }) {
  const { sheet, go } = useDesk();
  return (
    <section aria-label={`${column.name}, in series`}>
      <h2 className="mb-1 font-bold">{column.name}</h2>
      <p className="mb-2 text-soft">
        {column.spec}. In series with {sheet.run.load.name}: one current passes both, and what it
        takes is no loss. Its figures are on its own sheet.
      </p>
      <Button onClick={() => go({ run })}>Open {column.name}</Button>
    </section>
  );
}

function PieceInspector({ column }: { column: Column }) {
  const { sheet, kept } = useDesk();
  const { form } = kept.run.columns.find((c) => c.id === column.id) ?? column;
  const { choices, wire, fields, pick, planning, correct, setCorrect } = usePieceEdits(column);
  const styles = choices?.styles[form.kind] ?? [];
  const ratings = choices?.fuse_ratings[form.style || "blade"] ?? [];
  return (
    <section aria-label={`${column.name}: figures`}>
      <div className="mb-1 flex flex-wrap items-baseline gap-x-3">
        <h2 className="text-[15px] font-bold">{column.name}</h2>
        <p className="text-[13px] text-soft">
          {column.entry.name} ({ACCESS[column.entry.access]}) → {column.exit.name} (
          {ACCESS[column.exit.access]})
          {column.shared_with.length > 0 && ` · shared with ${column.shared_with.join(", ")}`}
        </p>
      </div>
      <div className="grid grid-cols-2 gap-x-2 gap-y-1.5 sm:grid-cols-[repeat(auto-fill,minmax(112px,1fr))]">
        <Pick
          label="Kind"
          value={form.kind}
          choices={KINDS}
          onPick={(kind) => pick({ kind: kind as Column["kind"] })}
        />
        {form.kind === "conductor" && (
          <WireFields form={form} wire={wire} fields={fields} pick={pick} />
        )}
        {styles.length > 0 && (
          <Pick
            label="Style"
            value={form.style}
            choices={[["", "not said"], ...styles.map((s): [string, string] => [s, s])]}
            onPick={(style) => pick({ style })}
          />
        )}
        {(form.kind === "fuse" || form.kind === "breaker") && (
          <Field label="Rating" value={form.rating} list={ratings} {...fields("rating")} />
        )}
        <Field
          label="Resistance"
          value={form.resistance}
          hint="from the table"
          {...fields("resistance")}
        />
        <Field label="Name" value={form.name} {...fields("name")} />
        <Field
          label="Fixed allowance"
          value={form.pinned}
          hint={volts(column.allowance_v)}
          {...fields("pinned")}
        />
      </div>
      <ColumnActions
        piece={column.id}
        name={column.name}
        movable={!column.beside}
        correct={correct && planning}
      />
      <div className="mt-2 flex flex-wrap items-center gap-1.5">
        <RepairButtons column={column} onPick={pick} />
        {(form.kind === "switch" || form.kind === "relay_contact" || form.kind === "breaker") && (
          <Button aria-pressed={form.open} onClick={() => pick({ open: !form.open })}>
            {form.open ? "Contact is open: close it" : "Open the contact"}
          </Button>
        )}
        {planning && (
          <label className="ml-1 flex min-h-8 items-center gap-1.5 text-[13px] text-soft">
            <input
              type="checkbox"
              checked={correct}
              onChange={(e) => setCorrect(e.target.checked)}
            />
            The drawing was wrong: correct the as-found wiring
          </label>
        )}
      </div>
      {planning && !correct && (
        <p className="mt-1 text-[13px] text-soft">
          Readings were taken on this wiring, so a change here becomes the planned repair.
        </p>
      )}
      {sheet.stage !== "as_found" && column.change && (
        <p className="mt-1 text-[13px] text-slate">Changed since as found: {column.change}</p>
      )}
      <div className="mt-2">
        <Working lines={column.working} />
        <WhatIf piece={column.id} />
      </div>
      <PartPhotographs id={column.id} name={column.name} />
    </section>
  );
}

function usePieceEdits(column: Column) {
  const desk = useDesk();
  const { data: choices } = useChoices();
  const [correct, setCorrect] = useState(false);
  // By what is kept: a what-if is answered as the plan it would make.
  const planning = desk.kept.stage === "as_found" && hasReadings(desk.kept);
  const asFound = correct && planning;
  const pick = (edit: Edit) => void desk.change(column.id, edit, asFound);
  const fields = (key: keyof Edit) => ({
    onWonder: (text: string | null) =>
      desk.wonder(column.id, text === null ? null : { [key]: text }, asFound),
    onKeep: (text: string) => desk.change(column.id, { [key]: text }, asFound),
  });
  return {
    choices,
    wire: sizesLike(column.form.size, choices),
    fields,
    pick,
    planning,
    correct,
    setCorrect,
  };
}

function hasReadings(sheet: Schema["Sheet"]): boolean {
  const { found, columns, sides } = sheet.run;
  const cells = [
    found.source,
    found.load,
    found.current,
    ...columns.map((c) => c.found),
    ...sides.map((s) => s.found),
  ];
  return cells.some((c) => c?.reading);
}

interface Sizes {
  names: string[];
  smaller: string | null;
  bigger: string | null;
}

/** The sizes of the wire's own system, and its neighbours among them. */
function sizesLike(size: string, choices: Schema["Choices"] | undefined): Sizes {
  const systems = choices?.sizes ?? [];
  const names = (systems.find((s) => s.sizes.includes(size)) ?? systems[0])?.sizes ?? [];
  const at = names.indexOf(size);
  const beside = (step: number) => (at < 0 ? null : (names[at + step] ?? null));
  return { names, smaller: beside(-1), bigger: beside(1) };
}

function Stepper({ wire, onPick }: { wire: Sizes; onPick: (size: string) => void }) {
  return (
    <>
      <Button
        className="px-1.5"
        aria-label="One size down"
        disabled={!wire.smaller}
        onClick={() => wire.smaller && onPick(wire.smaller)}
      >
        <Minus size={14} aria-hidden />
      </Button>
      <Button
        className="px-1.5"
        aria-label="One size up"
        disabled={!wire.bigger}
        onClick={() => wire.bigger && onPick(wire.bigger)}
      >
        <Plus size={14} aria-hidden />
      </Button>
    </>
  );
}

const REPAIRS: Record<string, ("cleaned" | "remade" | "replaced")[]> = {
  joint: ["cleaned", "remade", "replaced"],
  body_return: ["cleaned", "replaced"],
  conductor: ["replaced"],
};

function RepairButtons({ column, onPick }: { column: Column; onPick: (edit: Edit) => void }) {
  const offered = REPAIRS[column.kind] ?? ["cleaned", "replaced"];
  return (
    <fieldset className="flex items-center gap-1.5">
      <legend className="sr-only">Repair</legend>
      <span className="text-[13px] text-soft">repair:</span>
      {offered.map((repair) => {
        const on = column.form.repair === repair;
        return (
          <Button
            key={repair}
            aria-pressed={on}
            className={on ? "border-slate bg-tint" : ""}
            onClick={() => onPick({ repair: on ? "none" : repair })}
          >
            {repair}
          </Button>
        );
      })}
    </fieldset>
  );
}

const LAWS: [NonNullable<Schema["LoadForm"]["behaviour"]> | "unknown", string][] = [
  ["constant_current", "constant current"],
  ["constant_power", "constant power"],
  ["constant_resistance", "resistor"],
  ["filament", "filament"],
  ["unknown", "not known yet"],
];
const DUTIES: [Schema["LoadForm"]["duty"], string][] = [
  ["ordinary", "ordinary load"],
  ["short_time", "high current, short time"],
  ["control_supply", "control unit or sensor"],
  ["charging", "charging path"],
];

function LoadInspector() {
  const desk = useDesk();
  const { load, working } = desk.sheet.run;
  const { form } = desk.kept.run.load;
  const pick = (edit: Edit) => void desk.change(load.id, edit);
  const fields = (key: keyof Edit) => ({
    onWonder: (text: string | null) => desk.wonder(load.id, text === null ? null : { [key]: text }),
    onKeep: (text: string) => desk.change(load.id, { [key]: text }),
  });
  const holds = form.behaviour === "constant_current";
  return (
    <section aria-label={`${load.name}: figures`}>
      <h2 className="mb-1 text-[15px] font-bold">{load.name}</h2>
      <div className="grid grid-cols-2 gap-x-2 gap-y-1.5 sm:grid-cols-[repeat(auto-fill,minmax(112px,1fr))]">
        <Pick
          label="Draws"
          value={form.behaviour ?? "unknown"}
          choices={LAWS}
          onPick={(v) => v !== "unknown" && pick({ behaviour: v as typeof form.behaviour })}
        />
        {holds && <Field label="Current" value={form.current} {...fields("current")} />}
        {!holds && <Field label="Power" value={form.power} {...fields("power")} />}
        {(form.behaviour === "filament" || form.behaviour === "constant_resistance") && (
          <Field label="Rated at" value={form.rated} {...fields("rated")} />
        )}
        <Field label="Minimum voltage" value={form.least} hint="not known" {...fields("least")} />
        <Field label="Starting current ×" value={form.start} hint="1" {...fields("start")} />
        <Pick
          label="Duty"
          value={form.duty}
          choices={DUTIES}
          onPick={(v) => pick({ duty: v as typeof form.duty })}
        />
        <label className="flex min-h-11 items-center gap-1.5 self-end lg:min-h-8">
          <input
            type="checkbox"
            checked={form.critical}
            onChange={(e) => pick({ critical: e.target.checked })}
          />
          critical
        </label>
        <Field label="Name" value={form.name} {...fields("name")} />
      </div>
      <ColumnActions piece={load.id} name={load.name} movable={false} correct={false} />
      {load.works && <p className={load.drops_out ? "text-over" : ""}>{load.works}</p>}
      <div className="mt-2">
        <Working lines={working} />
        <WhatIf piece={null} />
      </div>
      <PartPhotographs id={load.id} name={load.name} />
    </section>
  );
}

function PartPhotographs({ id, name }: { id: string; name: string }) {
  const { sheet } = useDesk();
  return <Photographs job={sheet.job} of={{ subject: "part", about: id }} name={name} />;
}

function SourceInspector() {
  const desk = useDesk();
  const { source } = desk.kept.run;
  const fields = (key: keyof Edit) => ({
    onWonder: (text: string | null) =>
      desk.wonder(source.id, text === null ? null : { [key]: text }),
    onKeep: (text: string) => desk.change(source.id, { [key]: text }),
  });
  return (
    <section aria-label={`${source.name}: figures`}>
      <h2 className="mb-1 text-[15px] font-bold">{source.name}</h2>
      <p className="mb-1 text-[13px] text-soft">
        {source.live.name} → {source.back.name}. A scenario may set its own volts.
      </p>
      <div className="grid grid-cols-2 gap-x-2 sm:grid-cols-[repeat(auto-fill,minmax(130px,1fr))]">
        <Field label="Resting volts" value={source.form.open_circuit} {...fields("open_circuit")} />
        <Field label="Internal resistance" value={source.form.internal} {...fields("internal")} />
      </div>
      <PartPhotographs id={source.id} name={source.name} />
    </section>
  );
}

type Edits = ReturnType<typeof usePieceEdits>;

/** What a wire has: its size, length, insulation, and where it lies. */
function WireFields({
  form,
  wire,
  fields,
  pick,
}: { form: Column["form"] } & { [Key in "wire" | "fields" | "pick"]: Edits[Key] }) {
  return (
    <>
      <div className="flex items-end gap-1 sm:col-span-2">
        <div className="flex-1">
          <Field label="Size" value={form.size} list={wire.names} {...fields("size")} />
        </div>
        <Stepper wire={wire} onPick={(size) => pick({ size })} />
      </div>
      <Field label="Length" value={form.length} {...fields("length")} />
      <Field label="Insulation" value={form.insulation} hint="none" {...fields("insulation")} />
      <label className="flex min-h-11 items-center gap-1.5 self-end lg:min-h-8">
        <input
          type="checkbox"
          checked={form.engine_space}
          onChange={(e) => pick({ engine_space: e.target.checked })}
        />
        in the engine space
      </label>
      <label className="flex min-h-11 items-center gap-1.5 self-end lg:min-h-8">
        <input
          type="checkbox"
          checked={form.unsupported}
          onChange={(e) => pick({ unsupported: e.target.checked })}
        />
        unsupported
      </label>
      <Field
        label="Current-carrying wires in the bundle"
        value={form.bundle}
        hint="alone"
        {...fields("bundle")}
      />
      <Field label="Cable" value={form.cable} hint="single wire" {...fields("cable")} />
    </>
  );
}
