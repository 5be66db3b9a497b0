import { Copy, Pencil, Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { sentence } from "../../api/client";
import { Button } from "../../ui/Button";
import { OverSheet } from "../../ui/Dialog";
import { Pick, TextField } from "../../ui/TextField";
import { useSay } from "../../ui/told/Notices";
import { WrongElsewhere } from "../../ui/told/WrongElsewhere";
import { wrongWith } from "../../ui/told/wrong";
import { type Craft, undoDrawn, useCraftStep, useDraw } from "./api";
import type { Go } from "./CraftPage";
import { WhatIsOn } from "./WhatIsOn";

type Scenario = Craft["scenarios"][number];

/** The states of the craft: what the source gives, what is on, how warm it is. */
export function Scenarios({ craft, go }: { craft: Craft; go: Go }) {
  const [editing, setEditing] = useState<Scenario | "new" | null>(null);
  const [ticking, setTicking] = useState(false);
  const draw = useDraw(craft.job);
  const step = useCraftStep(craft.job);
  const say = useSay();
  const act = (action: "copy" | "remove", id: string) =>
    draw.mutate(
      { to: "scenarios", at: craft, body: { action, id } },
      {
        onSuccess: (made) => {
          go({ scenario: made.made ?? undefined });
          say(made.said, {
            act: {
              label: "Undo",
              run: () => void undoDrawn(step, made),
            },
          });
        },
        onError: (error) => say(sentence(error), { bad: true }),
      },
    );
  return (
    <section aria-label="Scenarios">
      <div className="flex items-baseline justify-between">
        <h2 className="mr-auto font-bold">Scenarios</h2>
        {craft.loads.length > 0 && (
          <Button tone="quiet" className="no-print" onClick={() => setTicking(true)}>
            What is on where
          </Button>
        )}
        <Button tone="quiet" className="no-print" onClick={() => setEditing("new")}>
          <Plus size={15} aria-hidden /> New
        </Button>
      </div>
      <ul className="divide-y divide-line border-y border-line">
        {craft.scenarios.map((s) => (
          <li key={s.id} className="flex items-center gap-1">
            <button
              type="button"
              aria-pressed={s.id === craft.scenario}
              onClick={() => go({ scenario: s.id })}
              className={`min-h-11 min-w-0 flex-1 rounded px-1.5 text-left lg:min-h-9 ${s.id === craft.scenario ? "bg-tint" : "hover:bg-tint"}`}
            >
              <b>{s.name}</b>{" "}
              <span className="text-[13px] text-soft">
                {s.source_v} · {s.on.length} of {craft.loads.length} on · {s.ambient}
                {s.engine && `, engine ${s.engine}`}
                {s.starting.length > 0 && `, ${s.starting.length} starting`}
              </span>
            </button>
            <Button
              tone="quiet"
              className="no-print px-1.5"
              aria-label={`Change ${s.name}`}
              onClick={() => setEditing(s)}
            >
              <Pencil size={14} aria-hidden />
            </Button>
            <Button
              tone="quiet"
              className="no-print px-1.5"
              aria-label={`A second one like ${s.name}`}
              onClick={() => act("copy", s.id)}
            >
              <Copy size={14} aria-hidden />
            </Button>
            <Button
              tone="quiet"
              className="no-print px-1.5"
              aria-label={`Take ${s.name} out`}
              disabled={craft.scenarios.length === 1}
              onClick={() => act("remove", s.id)}
            >
              <Trash2 size={14} aria-hidden />
            </Button>
          </li>
        ))}
      </ul>
      {ticking && <WhatIsOn craft={craft} onClose={() => setTicking(false)} />}
      {editing && (
        <ScenarioForm
          craft={craft}
          scenario={editing === "new" ? null : editing}
          onClose={(made) => {
            setEditing(null);
            if (made) go({ scenario: made });
          }}
        />
      )}
    </section>
  );
}

const FIELDS = ["name", "ambient", "engine", "open_circuit", "internal"] as const;

function ScenarioForm({
  craft,
  scenario,
  onClose,
}: {
  craft: Craft;
  scenario: Scenario | null;
  onClose: (made?: string) => void;
}) {
  const draw = useDraw(craft.job);
  const first = craft.scenarios[0];
  const [form, setForm] = useState(() => ({
    name: scenario?.name ?? "",
    on: scenario?.on ?? craft.loads.map((l) => l.id),
    starting: scenario?.starting ?? [],
    ambient: scenario?.ambient ?? first?.ambient ?? "20 °C",
    engine: scenario?.engine ?? "",
    temperature_model: scenario?.temperature_model ?? "self_heating",
    sources:
      scenario?.sources ?? craft.sources.map((s) => ({ id: s.id, open_circuit: "", internal: "" })),
  }));
  const set = (more: Partial<typeof form>) => setForm((now) => ({ ...now, ...more }));
  const source = (id: string, more: { open_circuit?: string; internal?: string }) =>
    set({ sources: form.sources.map((s) => (s.id === id ? { ...s, ...more } : s)) });
  return (
    <OverSheet
      open
      onClose={() => onClose()}
      title={scenario ? `Scenario: ${scenario.name}` : "A new scenario"}
    >
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          draw.mutate(
            {
              to: "scenarios",
              at: craft,
              body: { action: "keep", id: scenario?.id ?? null, form },
            },
            { onSuccess: (made) => onClose(made.made ?? undefined) },
          );
        }}
      >
        <div className="grid grid-cols-2 gap-x-3 gap-y-2">
          <TextField
            className="col-span-2"
            label="Name"
            value={form.name}
            onChange={(name) => set({ name })}
            wrong={wrongWith(draw.error, "name")}
            autoFocus={!scenario}
          />
          <TextField
            label="Air temperature at the wires"
            numeric
            value={form.ambient}
            onChange={(ambient) => set({ ambient })}
            wrong={wrongWith(draw.error, "ambient")}
          />
          <TextField
            label="Air in the engine space"
            hint="same as elsewhere"
            numeric
            value={form.engine}
            onChange={(engine) => set({ engine })}
            wrong={wrongWith(draw.error, "engine")}
          />
          <Pick
            className="col-span-2"
            label="Wires are"
            value={form.temperature_model}
            choices={[
              ["self_heating", "with self-heating"],
              ["ambient", "air temperature"],
            ]}
            onPick={(v) => set({ temperature_model: v as typeof form.temperature_model })}
          />
          {form.sources.map((s) => (
            <SourceFields
              key={s.id}
              own={craft.sources.find((each) => each.id === s.id)}
              given={s}
              error={draw.error}
              set={(more) => source(s.id, more)}
            />
          ))}
        </div>
        <LoadsOn craft={craft} on={form.on} starting={form.starting} set={set} />
        <WrongElsewhere error={draw.error} fields={FIELDS} />
        <div className="flex justify-end gap-2">
          <Button onClick={() => onClose()}>Cancel</Button>
          <Button tone="strong" type="submit" disabled={draw.isPending}>
            Save
          </Button>
        </div>
      </form>
    </OverSheet>
  );
}

type Given = Scenario["sources"][number];

/** How a source stands in the scenario; empty as it is everywhere. */
function SourceFields({
  own,
  given,
  error,
  set,
}: {
  own: Craft["sources"][number] | undefined;
  given: Given;
  error: unknown;
  set: (more: Partial<Given>) => void;
}) {
  return (
    <div className="contents">
      <TextField
        label={`${own?.name}: volts`}
        hint={own?.open_circuit}
        numeric
        value={given.open_circuit ?? ""}
        onChange={(open_circuit) => set({ open_circuit })}
        wrong={wrongWith(error, "open_circuit")}
      />
      <TextField
        label={`${own?.name}: internal resistance`}
        hint={own?.internal}
        numeric
        value={given.internal ?? ""}
        onChange={(internal) => set({ internal })}
        wrong={wrongWith(error, "internal")}
      />
    </div>
  );
}

/** Which loads are on in the scenario, and which of them start. */
function LoadsOn({
  craft,
  on,
  starting,
  set,
}: {
  craft: Craft;
  on: string[];
  starting: string[];
  set: (more: { on?: string[]; starting?: string[] }) => void;
}) {
  const turn = (list: string[], id: string) =>
    list.includes(id) ? list.filter((each) => each !== id) : [...list, id];
  return (
    <fieldset>
      <legend className="text-[13px] text-soft">Loads that are on</legend>
      <ul className="grid gap-x-3 sm:grid-cols-2">
        {craft.loads.map((load) => (
          <li key={load.id} className="flex flex-wrap items-center gap-x-3">
            <label className="flex min-h-9 items-center gap-1.5">
              <input
                type="checkbox"
                checked={on.includes(load.id)}
                onChange={() => set({ on: turn(on, load.id) })}
              />
              {load.name}
            </label>
            {on.includes(load.id) && (load.start_multiple ?? 1) > 1 && (
              <label className="flex min-h-9 items-center gap-1.5 text-[13px] text-soft">
                <input
                  type="checkbox"
                  checked={starting.includes(load.id)}
                  onChange={() => set({ starting: turn(starting, load.id) })}
                />
                starting, ×{load.start_multiple}
              </label>
            )}
          </li>
        ))}
      </ul>
    </fieldset>
  );
}
