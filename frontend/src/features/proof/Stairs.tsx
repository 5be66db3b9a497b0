import { sideWord, whole } from "../../format/format";
import { useWidth } from "../../ui/useWidth";
import type { Proof } from "./api";

const HEIGHT = 150;
const BASE = HEIGHT - 22;
const PLATE = 72;

type Piece = Proof["pieces"][number];

/** Volts spent piece by piece, out to the load and back: before as a broken line, after filled. */
export function Stairs({ proof }: { proof: Proof }) {
  const [frame, width] = useWidth();
  if (!proof.started || proof.pieces.length === 0) return null;
  const sides = (["feed", "return"] as const).map((side) => ({
    side,
    pieces: proof.pieces.filter((p) => p.side === side),
    bar: proof.bars.find((b) => b.side === sideWord(side)),
  }));
  const sum = (pieces: Piece[], of: (p: Piece) => number) => pieces.reduce((v, p) => v + of(p), 0);
  const top = Math.max(
    ...sides.flatMap(({ pieces, bar }) => [
      sum(pieces, (p) => p.before_v?.si ?? 0),
      sum(pieces, (p) => p.after_v.si),
      bar?.ceiling_v?.si ?? 0,
    ]),
    1e-6,
  );
  const y = (volts: number) => BASE - (volts / top) * (BASE - 12);
  const count = Math.max(proof.pieces.length, 1);
  const step = Math.max(width - PLATE, 0) / count;
  const starts = { feed: 0, return: (sides[0]?.pieces.length ?? 0) * step + PLATE };
  const climbed = (pieces: Piece[], x: number, of: (p: Piece) => number) => {
    let volts = 0;
    return pieces
      .map((p, i) => {
        const from = volts;
        volts += of(p);
        return `${i ? "L" : "M"}${x + i * step} ${y(from)}L${x + (i + 1) * step} ${y(volts)}`;
      })
      .join("");
  };
  return (
    <figure ref={frame}>
      <svg
        role="img"
        aria-label={`Voltage drop along the run. ${inWords(sides)}`}
        width={width}
        height={HEIGHT}
        className="block"
      >
        {sides.map(({ side, pieces, bar }) => {
          const x = starts[side];
          const end = x + pieces.length * step;
          if (pieces.length === 0) return null;
          const after = climbed(pieces, x, (p) => p.after_v.si);
          const ceiling = bar?.ceiling_v?.si;
          return (
            <g key={side}>
              <path d={`${after}L${end} ${BASE}L${x} ${BASE}Z`} className="fill-copper-fill" />
              <path d={after} fill="none" strokeWidth={2} className="stroke-copper" />
              {pieces.some((p) => p.before_v) && (
                <path
                  d={climbed(pieces, x, (p) => p.before_v?.si ?? 0)}
                  fill="none"
                  strokeWidth={1.5}
                  strokeDasharray="4 3"
                  className="stroke-ink"
                />
              )}
              {ceiling !== undefined && (
                <line
                  x1={x}
                  x2={end}
                  y1={y(ceiling)}
                  y2={y(ceiling)}
                  strokeWidth={2}
                  className="stroke-slate"
                />
              )}
              <line x1={x} x2={end} y1={BASE} y2={BASE} className="stroke-rule" />
              <text x={x + 2} y={HEIGHT - 6} fontSize="13" className="fill-soft">
                {sideWord(side)}
              </text>
              {bar && (
                <text
                  x={end - 2}
                  y={HEIGHT - 6}
                  fontSize="13"
                  textAnchor="end"
                  className="num fill-ink"
                >
                  {bar.before_v ? `${bar.before_v.brief} → ` : ""}
                  {bar.after_v.brief} V
                </text>
              )}
            </g>
          );
        })}
        <rect
          x={starts.return - PLATE + 4}
          y={12}
          width={PLATE - 8}
          height={BASE - 12}
          rx={3}
          className="fill-plate stroke-rule"
        />
        <text
          x={starts.return - PLATE / 2}
          y={BASE / 2 + 10}
          fontSize="13"
          textAnchor="middle"
          className="fill-soft"
        >
          load
        </text>
      </svg>
      <figcaption className="text-[13px] text-soft">
        Voltage drop along the run, {proof.scenario}: dashed = before, filled = after, blue = limit.
      </figcaption>
    </figure>
  );
}

/** Both sides before and after, for whoever does not see the picture. */
function inWords(sides: { side: string; bar: Proof["bars"][number] | undefined }[]): string {
  return sides
    .map(({ side, bar }) => {
      if (!bar) return "";
      const before = bar.before_v ? `${whole(bar.before_v)} before, ` : "";
      const limit = bar.ceiling_v ? `, limit ${whole(bar.ceiling_v)}` : "";
      return `${sideWord(side)}: ${before}${whole(bar.after_v)} after${limit}`;
    })
    .filter(Boolean)
    .join("; ");
}
