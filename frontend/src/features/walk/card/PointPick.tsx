import { useId } from "react";
import type { Walk } from "../api";

interface Props {
  walk: Walk;
  label: string;
  value: string;
  onPick: (point: string) => void;
  lead?: "red" | "black";
}

/** A test point: those of the run in the current's order, then every other one of the craft. */
export function PointPick({ walk, label, value, onPick, lead }: Props) {
  const id = useId();
  const colour = lead ? `font-bold text-[var(--lead-${lead})]` : "text-soft";
  return (
    <div>
      <label htmlFor={id} className={`block text-[13px] ${colour}`}>
        {label}
      </label>
      <select
        id={id}
        value={value}
        onChange={(e) => onPick(e.target.value)}
        className="min-h-11 w-full rounded border border-rule bg-canvas px-2 text-ink"
      >
        {value === "" && <option value="">choose</option>}
        <optgroup label={walk.run_name}>
          {walk.points.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}
            </option>
          ))}
        </optgroup>
        {walk.loop.others.length > 0 && (
          <optgroup label="Elsewhere">
            {walk.loop.others.map((p) => (
              <option key={p.id} value={p.id}>
                {p.name}
              </option>
            ))}
          </optgroup>
        )}
      </select>
    </div>
  );
}
