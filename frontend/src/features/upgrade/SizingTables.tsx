import { whole } from "../../format/format";
import type { Sizing } from "./api";

/** How the whole craft stands now and with the sizes, in the scenario that is worst for each run. */
export function WholeCraft({ sizing }: { sizing: Sizing }) {
  if (sizing.ways.length === 0) return null;
  return (
    <table className="w-full max-w-2xl">
      <caption className="text-left font-bold">The whole craft</caption>
      <thead className="text-left text-[13px] text-soft">
        <tr>
          <th className="font-normal">{sizing.measured ? "From the readings" : "Calculated"}</th>
          <th className="px-3 text-right font-normal">Runs over limit</th>
          <th className="text-right font-normal">Lowest spare</th>
        </tr>
      </thead>
      <tbody>
        {sizing.ways.map((w) => (
          <tr key={w.id} className="border-t border-line">
            <td className="py-0.5">{w.name}</td>
            <td className="px-3 text-right">
              <span className={`num ${w.over > 0 ? "font-bold text-over" : ""}`}>
                {w.over > 0 ? "▲ " : w.unknown.length > 0 ? "" : "✓ "}
                {w.over}
              </span>{" "}
              <span className="text-soft">of {w.runs}</span>
              {w.unknown.length > 0 && (
                <span className="block text-[13px] text-soft">
                  not known: {w.unknown.join(", ")}
                </span>
              )}
              {w.dropped.length > 0 && (
                <span className="block text-[13px] text-over">
                  {w.dropped.join(", ")} {w.dropped.length === 1 ? "drops" : "drop"} out
                </span>
              )}
            </td>
            <td className="text-right">
              <span className="num">{whole(w.spare_v)}</span>{" "}
              <span className="text-soft">{w.load}</span>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What each limit that holds the sizes up costs. */
export function LimitCosts({ sizing }: { sizing: Sizing }) {
  if (sizing.costs.length === 0) return null;
  return (
    <table>
      <caption className="text-left font-bold">What each limit costs</caption>
      <thead className="text-left text-[13px] text-soft">
        <tr>
          <th className="font-normal">Limit</th>
          <th className="px-3 text-right font-normal">Spare to this limit</th>
          <th className="text-right font-normal">0.01 V more would save</th>
        </tr>
      </thead>
      <tbody>
        {sizing.costs.map((c) => (
          <tr key={c.load + c.under} className="border-t border-line">
            <td className="py-0.5">
              {c.load}, {c.under}
            </td>
            <td className="num px-3 text-right">{whole(c.spare_v)}</td>
            <td className="num text-right">{c.saves}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Every wire: what it is, what it is to be, and why no thinner; ticked, it stays as it is. */
export function WiresToSize({
  sizing,
  kept,
  onKeep,
}: {
  sizing: Sizing;
  kept: ReadonlySet<string>;
  onKeep: (wire: string) => void;
}) {
  return (
    <div className="relative overflow-x-auto">
      <table className="w-full">
        <caption className="text-left font-bold">Wires</caption>
        <thead className="text-left text-[13px] text-soft">
          <tr>
            <th className="font-normal">Keep</th>
            <th className="font-normal">Wire</th>
            <th className="px-2 text-right font-normal">Length</th>
            <th className="px-2 text-right font-normal">Now</th>
            <th className="text-right font-normal">Chosen</th>
            <th className="hidden pl-4 font-normal lg:table-cell">Why no thinner</th>
          </tr>
        </thead>
        <tbody>
          {sizing.wires.map((w) => (
            <tr key={w.id} className="border-t border-line align-top">
              <td className="py-0.5">
                <label className="inline-flex min-h-11 min-w-11 items-center lg:min-h-6">
                  <span className="sr-only">keep {w.name}</span>
                  <input
                    type="checkbox"
                    checked={kept.has(w.id)}
                    onChange={() => onKeep(w.id)}
                    className="size-5 lg:size-4"
                  />
                </label>
              </td>
              <td className="py-0.5">
                {w.name} <span className="text-[13px] text-soft">{w.runs}</span>
                <span className="block text-[13px] text-soft lg:hidden">{w.because}</span>
              </td>
              <td className="num whitespace-nowrap px-2 text-right">{w.length}</td>
              <td className="num whitespace-nowrap px-2 text-right">{w.before}</td>
              <td
                className={`num whitespace-nowrap text-right ${w.changed ? "font-bold text-slate" : "text-soft"}`}
              >
                {sizing.after ? w.after : ""}
              </td>
              <td className="hidden pl-4 text-[13px] text-soft lg:table-cell">{w.because}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** The fuses that have no rating yet, and what each is to be. */
export function FusesToSize({ fuses }: { fuses: Sizing["fuses"] }) {
  if (fuses.length === 0) return null;
  return (
    <table className="w-full">
      <caption className="text-left font-bold">Fuses without a rating</caption>
      <thead className="text-left text-[13px] text-soft">
        <tr>
          <th className="font-normal">Fuse</th>
          <th className="px-2 text-right font-normal">Chosen</th>
          <th className="hidden pl-4 font-normal lg:table-cell">Why</th>
        </tr>
      </thead>
      <tbody>
        {fuses.map((f) => (
          <tr key={f.id} className="border-t border-line align-top">
            <td className="py-0.5">
              {f.name} <span className="text-[13px] text-soft">{f.runs}</span>
              <span className="block text-[13px] text-soft lg:hidden">{f.because}</span>
            </td>
            <td className="num whitespace-nowrap px-2 text-right font-bold text-slate">
              {f.after || <span className="font-normal text-soft">to be sized</span>}
            </td>
            <td className="hidden pl-4 text-[13px] text-soft lg:table-cell">{f.because}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
