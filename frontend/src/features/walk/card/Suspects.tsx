import { whole } from "../../../format/format";
import type { Walk } from "../api";

/** Who is suspected and how much, likeliest first: a list, never a verdict. */
export function Suspects({ walk }: { walk: Walk }) {
  const shown = walk.suspects.filter((s) => s.probability.si >= 0.005).slice(0, 8);
  return (
    <section aria-label="Suspects, likeliest first">
      <h2 className="font-bold">Suspects</h2>
      <p className="text-[13px] text-soft">
        {walk.together
          ? "No single fault explains the readings: two at once."
          : "How probable each is by everything that was read."}
      </p>
      <ol className="mt-1 space-y-1">
        {shown.map((s) => (
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
  );
}
