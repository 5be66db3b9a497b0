import { ChevronDown } from "lucide-react";
import { useState } from "react";
import { whole } from "../../format/format";
import type { Walk } from "./api";
import { AS_SCENARIO } from "./moment";

export type LoadState = Walk["moment"]["loads"][number]["state"];

/** The conditions under which the next readings are taken, as they were changed on this device. */
export interface Conditions {
  states: Record<string, LoadState>;
  /** Switches, breakers and relay contacts that stand otherwise than in the scenario. */
  contacts: Record<string, "open" | "closed">;
  warm: string;
  charging: boolean | null;
  /** The engine's speed, where a charging path is read. */
  rpm: string;
}

const STATES: [LoadState, string][] = [
  ["running", "running"],
  ["attempted", "switched on, not running"],
  ["starting", "starting"],
  ["off", "off"],
  ["unplugged", "unplugged"],
];

/** How long ago, in the shortest words. */
function ago(seconds: number | null): string {
  if (seconds === null) return "when is not known";
  if (seconds < 90) return "just now";
  const minutes = Math.floor(seconds / 60);
  if (minutes < 120) return `${minutes} min ago`;
  const hours = Math.floor(minutes / 60);
  return hours < 48 ? `${hours} h ago` : `${Math.floor(hours / 24)} days ago`;
}

/** The moment in one line; opened, every part of it can be changed. */
export function MomentLine({
  walk,
  now,
  set,
}: {
  walk: Walk;
  now: Conditions;
  set: (next: Conditions) => void;
}) {
  const [open, setOpen] = useState(false);
  const { moment } = walk;
  const changed =
    Object.keys(now.states).length > 0 ||
    Object.keys(now.contacts).length > 0 ||
    now.charging !== null;
  return (
    <section aria-label="Test conditions" className="mb-2 rounded border border-rule bg-plate">
      <button
        type="button"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
        className="flex min-h-11 w-full items-center gap-2 px-2 text-left text-[14px]"
      >
        <span className="min-w-0 flex-1" data-testid="moment">
          {changed ? inWords(walk, now) : moment.says}
          {now.warm && ` · ${now.warm} min`}
          {now.rpm && ` · ${now.rpm} rpm`}
          {moment.source_v !== null && (
            <span className="text-soft">
              {" "}
              · source {whole(moment.source_v)}, {ago(moment.source_age_s)}
            </span>
          )}
        </span>
        <ChevronDown size={16} aria-hidden className={open ? "rotate-180" : ""} />
      </button>
      {open && <Changes walk={walk} now={now} set={set} changed={changed} />}
    </section>
  );
}

/** What is otherwise than in the scenario, in one line. */
function inWords(walk: Walk, now: Conditions): string {
  const { loads, contacts } = walk.moment;
  const word = (id: string) => STATES.find(([state]) => state === now.states[id])?.[1] ?? "";
  return [
    walk.scenario_name,
    ...loads.filter((l) => now.states[l.id]).map((l) => `${l.name} ${word(l.id)}`),
    ...contacts.filter((c) => now.contacts[c.id]).map((c) => `${c.name} ${now.contacts[c.id]}`),
    now.charging === null ? "" : now.charging ? "charger on" : "charger off",
  ]
    .filter(Boolean)
    .join(" · ");
}

/** Every part of the moment, each to be changed by a touch. */
function Changes({
  walk,
  now,
  set,
  changed,
}: {
  walk: Walk;
  now: Conditions;
  set: (next: Conditions) => void;
  changed: boolean;
}) {
  const { moment } = walk;
  return (
    <div className="grid gap-2 border-t border-line p-2 sm:grid-cols-2">
      {moment.loads.slice(0, 8).map((l) => (
        <label key={l.id} className="block text-[13px] text-soft">
          {l.name}
          <select
            value={now.states[l.id] ?? l.state}
            onChange={(e) =>
              set({ ...now, states: { ...now.states, [l.id]: e.target.value as LoadState } })
            }
            className="block min-h-11 w-full rounded border border-rule bg-canvas px-2 text-[15px] text-ink"
          >
            {STATES.map(([state, word]) => (
              <option key={state} value={state}>
                {word}
              </option>
            ))}
          </select>
        </label>
      ))}
      {moment.contacts.slice(0, 6).map((c) => (
        <label key={c.id} className="block text-[13px] text-soft">
          {c.name}
          <select
            value={now.contacts[c.id] ?? c.state}
            onChange={(e) =>
              set({
                ...now,
                contacts: { ...now.contacts, [c.id]: e.target.value as "open" | "closed" },
              })
            }
            className="block min-h-11 w-full rounded border border-rule bg-canvas px-2 text-[15px] text-ink"
          >
            <option value="closed">closed</option>
            <option value="open">open</option>
          </select>
        </label>
      ))}
      <label className="block text-[13px] text-soft">
        Minutes switched on
        <input
          inputMode="decimal"
          value={now.warm}
          onChange={(e) => set({ ...now, warm: e.target.value })}
          className="num block min-h-11 w-full rounded border border-rule bg-canvas px-2 text-[15px] text-ink"
        />
      </label>
      {moment.asks_rpm && (
        <label className="block text-[13px] text-soft">
          Engine speed, rpm
          <input
            inputMode="numeric"
            placeholder="2000"
            value={now.rpm}
            onChange={(e) => set({ ...now, rpm: e.target.value })}
            className="num block min-h-11 w-full rounded border border-rule bg-canvas px-2 text-[15px] text-ink"
          />
        </label>
      )}
      <label className="block text-[13px] text-soft">
        Charger
        <select
          value={now.charging === null ? "" : now.charging ? "on" : "off"}
          onChange={(e) =>
            set({ ...now, charging: e.target.value === "" ? null : e.target.value === "on" })
          }
          className="block min-h-11 w-full rounded border border-rule bg-canvas px-2 text-[15px] text-ink"
        >
          <option value="">as in the scenario</option>
          <option value="on">on</option>
          <option value="off">off</option>
        </select>
      </label>
      {changed && (
        <button
          type="button"
          className="min-h-11 self-end text-left font-bold text-slate underline"
          onClick={() => set(AS_SCENARIO)}
        >
          Reset to scenario
        </button>
      )}
    </div>
  );
}
