import { type Figure, volts } from "../../format/format";
import type { Candidate } from "./api";

const WIDTH = 148;
const LEFT = 44;
const ROW = 15;

/** Volts spent on either side: before as an outline, after filled, the ceiling as a line. */
export function SpentBars({ bars }: { bars: Candidate["bars"] }) {
  const most = Math.max(
    ...bars.flatMap((b) => [b.before_v?.si ?? 0, b.after_v?.si ?? 0, b.ceiling_v?.si ?? 0]),
    1e-6,
  );
  const said = (v: Figure | null) => (v === null ? "not known" : volts(v));
  const at = (v: number) => (Math.max(v, 0) / most) * (WIDTH - LEFT - 2);
  const says = bars
    .map(
      (b) =>
        `${b.side} ${said(b.before_v)} before, ${said(b.after_v)} after` +
        (b.ceiling_v ? `, limit ${volts(b.ceiling_v)}` : ""),
    )
    .join("; ");
  return (
    <svg
      role="img"
      aria-label={says}
      width={WIDTH}
      height={ROW * bars.length}
      className="block shrink-0"
    >
      {bars.map((b, i) => {
        const y = i * ROW + 3;
        const over = b.ceiling_v !== null && b.after_v !== null && b.after_v.si > b.ceiling_v.si;
        return (
          <g key={b.side}>
            <text x={0} y={y + 8} fontSize="11" className="fill-soft">
              {b.side}
            </text>
            {b.after_v === null && (
              <text x={LEFT + 2} y={y + 9} fontSize="11" className="fill-ink">
                ?
              </text>
            )}
            <rect
              x={LEFT}
              y={y}
              width={at(b.after_v?.si ?? 0)}
              height={9}
              className={over ? "fill-over" : "fill-copper"}
            />
            <rect
              x={LEFT}
              y={y}
              width={at(b.before_v?.si ?? 0)}
              height={9}
              fill="none"
              strokeWidth={1}
              strokeDasharray="2 2"
              className="stroke-ink"
            />
            {b.ceiling_v && (
              <line
                x1={LEFT + at(b.ceiling_v.si)}
                x2={LEFT + at(b.ceiling_v.si)}
                y1={y - 3}
                y2={y + 12}
                strokeWidth={2}
                className="stroke-slate"
              />
            )}
          </g>
        );
      })}
    </svg>
  );
}
