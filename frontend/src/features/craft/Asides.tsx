import { bare, lengthUnit, whole } from "../../format/format";
import { Why } from "../../ui/Why";
import type { Craft } from "./api";

/** What the other loads get while a motor starts; those that drop out first. */
export function Starts({ craft }: { craft: Craft }) {
  if (craft.starts.length === 0) return null;
  return (
    <section aria-label="While motors start">
      <h2 className="mb-1 font-bold">While motors start</h2>
      <ul className="space-y-0.5">
        {craft.starts.map((s) => (
          <li key={`${s.motor} ${s.load}`} className={s.drops_out ? "text-over" : ""}>
            {s.drops_out && <span aria-hidden>▲ </span>}
            <Why
              title="While it starts"
              lines={s.working}
              stop
              className="text-left max-lg:min-h-11"
            >
              {s.says}
            </Why>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** The pieces whose improvement helps most runs. */
export function Helps({ craft }: { craft: Craft }) {
  if (craft.helps.length === 0) return null;
  return (
    <section aria-label="What would help most">
      <h2 className="mb-1 font-bold">What would help most</h2>
      <ul className="divide-y divide-line border-y border-line">
        {craft.helps.map((h) => (
          <li key={h.piece} className="flex items-baseline gap-3 py-1">
            <span className="min-w-0 flex-1">
              <b>{h.name}</b>, {h.by}
              <span className="block text-[13px] text-soft">
                {h.runs.length > 3
                  ? `${h.runs.slice(0, 3).join(", ")} and ${h.runs.length - 3} more`
                  : h.runs.join(", ")}
                {h.short_runs > 0 && ` · ${h.short_runs} of them over`}
              </span>
            </span>
            <span className="num font-bold text-slate">
              <Why title={`${h.name}, ${h.by}`} lines={h.working} stop className="max-lg:min-h-11">
                +{whole(h.gain_v)}
              </Why>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** How much of each size the craft holds. */
export function Copper({ craft }: { craft: Craft }) {
  if (craft.copper.length === 0) return null;
  return (
    <section aria-label="Copper by size">
      <h2 className="mb-1 font-bold">Copper by size</h2>
      <table className="w-full">
        <thead className="text-left text-[13px] text-soft">
          <tr>
            <th className="font-normal">Size</th>
            <th className="text-right font-normal">Length, {lengthUnit()}</th>
            <th className="text-right font-normal">Copper, kg</th>
          </tr>
        </thead>
        <tbody className="num">
          {craft.copper.map((use) => (
            <tr key={use.size} className="border-t border-line">
              <td className="py-0.5">{use.size}</td>
              <td className="text-right">{bare(use.length_m)}</td>
              <td className="text-right">
                <Why title={use.size} lines={use.working} stop className="max-lg:min-h-11">
                  {use.mass_kg === null ? "?" : bare(use.mass_kg)}
                </Why>
              </td>
            </tr>
          ))}
          <tr className="border-t border-rule font-bold">
            <td className="py-0.5 font-sans">together</td>
            <td />
            <td className="text-right">{bare(craft.copper_kg)}</td>
          </tr>
        </tbody>
      </table>
    </section>
  );
}
