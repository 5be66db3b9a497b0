import { useState } from "react";
import type { Walk } from "./api";
import { BigEntry } from "./BigEntry";
import { useWalkActs } from "./useWalkActs";

const WHAT = [
  ["volts", "volts"],
  ["amperes", "current"],
  ["kelvin", "surface, K above the cable beside"],
] as const;
const UNITS = { volts: "V", amperes: "A", kelvin: "K" };

/** Any two points, in any order: as easy as following the walk. */
export function Free({ walk }: { walk: Walk }) {
  const { take } = useWalkActs(walk);
  const points = walk.points;
  const [red, setRed] = useState(points[0]?.id ?? "");
  const [black, setBlack] = useState(points[points.length - 1]?.id ?? "");
  const [what, setWhat] = useState<"volts" | "amperes" | "kelvin">("volts");
  const name = (id: string) => points.find((p) => p.id === id)?.name ?? id;
  const pick = "min-h-11 w-full rounded border border-rule bg-canvas px-2";
  const options = points.map((p) => (
    <option key={p.id} value={p.id}>
      {p.name}
    </option>
  ));
  return (
    <details className="mt-3 rounded-lg border border-rule bg-plate px-3">
      <summary className="min-h-11 py-3 font-bold">Measure anything else</summary>
      <div className="space-y-2 pb-3">
        <label className="block text-[13px] text-soft">
          what
          <select
            value={what}
            onChange={(e) => setWhat(e.target.value as typeof what)}
            className={pick}
          >
            {WHAT.map(([key, word]) => (
              <option key={key} value={key}>
                {word}
              </option>
            ))}
          </select>
        </label>
        <label className="block text-[13px] font-bold text-[var(--lead-red)]">
          RED lead on
          <select
            value={red}
            onChange={(e) => setRed(e.target.value)}
            className={`${pick} text-ink`}
          >
            {options}
          </select>
        </label>
        <label className="block text-[13px] font-bold text-[var(--lead-black)]">
          BLACK lead on
          <select
            value={black}
            onChange={(e) => setBlack(e.target.value)}
            className={`${pick} text-ink`}
          >
            {options}
          </select>
        </label>
        <BigEntry
          label="Any two points"
          unit={UNITS[what]}
          onRead={(typed, more) =>
            take({ quantity: what, red, black, typed, ...more }, `${name(red)} to ${name(black)}`)
          }
        />
      </div>
    </details>
  );
}
