import { type KeyboardEvent, useRef, useState } from "react";
import { sentence } from "../../api/client";
import { Button } from "../../ui/Button";
import { OverSheet } from "../../ui/Dialog";
import { useSay } from "../../ui/told/Notices";
import { type Craft, type Drawn, undoDrawn, useCraftStep, useDraw } from "./api";

const MOVES: Record<string, [number, number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
};

/** Loads by scenarios: what is on where, ticked with the keys, kept at once. */
export function WhatIsOn({ craft, onClose }: { craft: Craft; onClose: () => void }) {
  const [on, setOn] = useState<Record<string, readonly string[]>>(() =>
    Object.fromEntries(craft.scenarios.map((s) => [s.id, s.on])),
  );
  const body = useRef<HTMLTableSectionElement>(null);
  const draw = useDraw(craft.job);
  const step = useCraftStep(craft.job);
  const say = useSay();
  const changed = craft.scenarios.filter(
    (s) => [...s.on].sort().join() !== [...(on[s.id] ?? [])].sort().join(),
  );
  const turn = (scenario: string, load: string) =>
    setOn((was) => {
      const held = was[scenario] ?? [];
      const next = held.includes(load) ? held.filter((x) => x !== load) : [...held, load];
      return { ...was, [scenario]: next };
    });
  const move = (event: KeyboardEvent, row: number, column: number) => {
    const by = MOVES[event.key];
    const next =
      by &&
      body.current?.querySelector<HTMLElement>(`[data-at="${row + by[0]} ${column + by[1]}"]`);
    if (!next) return;
    event.preventDefault();
    next.focus();
  };
  const keep = async () => {
    const made: Drawn[] = [];
    try {
      for (const s of changed) {
        const now = on[s.id] ?? [];
        const form = { ...s, on: [...now], starting: s.starting.filter((x) => now.includes(x)) };
        made.push(
          await draw.mutateAsync({
            to: "scenarios",
            at: craft,
            body: { action: "keep", id: s.id, form: formOf(form) },
          }),
        );
      }
    } catch (error) {
      return say(sentence(error), { bad: true });
    }
    const undo = async () => {
      for (const each of [...made].reverse()) await undoDrawn(step, each);
    };
    const told = `${made.length} ${made.length === 1 ? "scenario" : "scenarios"} changed.`;
    say(told, { act: { label: "Undo", run: () => void undo() } });
    onClose();
  };
  return (
    <OverSheet
      open
      wide
      onClose={onClose}
      title="What is on where"
      says="Arrows move, Space ticks. A load of short time belongs in a scenario of its own."
    >
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void keep();
        }}
      >
        <div className="relative max-h-[56vh] overflow-auto rounded border border-line">
          <table className="w-full">
            <thead className="sticky top-0 bg-canvas text-left text-[13px]">
              <tr>
                <th scope="col" className="p-1.5 font-normal text-soft">
                  Load
                </th>
                {craft.scenarios.map((s) => (
                  <th key={s.id} scope="col" className="p-1.5 text-center font-bold">
                    {s.name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody ref={body}>
              {craft.loads.map((load, row) => (
                <tr key={load.id} className="border-t border-line">
                  <th scope="row" className="p-1.5 text-left font-normal">
                    {load.name}
                  </th>
                  {craft.scenarios.map((s, column) => (
                    <td key={s.id} className="text-center">
                      <label className="inline-flex min-h-11 min-w-11 items-center justify-center lg:min-h-7">
                        <span className="sr-only">
                          {load.name} on in {s.name}
                        </span>
                        <input
                          type="checkbox"
                          data-at={`${row} ${column}`}
                          checked={on[s.id]?.includes(load.id) ?? false}
                          onChange={() => turn(s.id, load.id)}
                          onKeyDown={(e) => move(e, row, column)}
                          className="size-5 lg:size-4"
                        />
                      </label>
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        <div className="mt-3 flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" tone="strong" disabled={draw.isPending || changed.length === 0}>
            Save
          </Button>
        </div>
      </form>
    </OverSheet>
  );
}

type Scenario = Craft["scenarios"][number];

/** What of a scenario is sent: not what is only told of it. */
function formOf({ id: _, source_v: __, ...form }: Scenario) {
  return form;
}
