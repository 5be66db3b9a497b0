import { whole } from "../../../format/format";
import type { Walk } from "../api";

/** What the readings leave no other way, then what is still possible, likeliest first. */
export function Suspects({ walk }: { walk: Walk }) {
  const found = walk.suspects.filter((s) => s.found);
  const open = walk.suspects.filter((s) => !s.found && s.probability.si >= 0.005).slice(0, 8);
  return (
    <>
      {found.length > 0 && (
        <section aria-label="Found">
          <h2 className="font-bold">Found</h2>
          <p className="text-[13px] text-soft">No circuit with these readings can do without it.</p>
          <ul className="mt-1 space-y-1">
            {found.map((s) => (
              <li key={`${s.element}`} className="border-l-2 border-over pl-2">
                <b>{s.name}</b> <span className="text-[13px] text-soft">{s.says}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
      {open.length > 0 && (
        <section aria-label="Likely faults, likeliest first">
          <h2 className="font-bold">Still possible</h2>
          <p className="text-[13px] text-soft">
            What the readings leave open, likeliest first. It only guides what to read next.
          </p>
          <ol className="mt-1 space-y-1">
            {open.map((s) => (
              <li
                key={`${s.element} ${s.says}`}
                className="grid grid-cols-[3.4rem_1fr] items-baseline gap-2"
              >
                <span className="num text-right font-bold">{whole(s.probability)}</span>
                <span>
                  {s.name} <span className="text-[13px] text-soft">{s.says}</span>
                  <span aria-hidden className="mt-0.5 block h-1 rounded-sm bg-tint">
                    <span
                      className="block h-full rounded-sm bg-copper"
                      style={{ width: `${Math.max(1, s.probability.si * 100)}%` }}
                    />
                  </span>
                </span>
              </li>
            ))}
          </ol>
        </section>
      )}
    </>
  );
}
