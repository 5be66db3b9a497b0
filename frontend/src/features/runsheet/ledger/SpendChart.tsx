import { useId } from "react";
import type { Cell, Column, Sheet, Side } from "../../../api/client";
import { brief, type Figure, sideWord } from "../../../format/format";
import { passOnShow } from "../desk";
import { type Geometry, LABEL, LOAD, TOTAL } from "./geometry";
import { type Climb, climb, measuredClimb, tallest } from "./spend";

interface Props {
  sheet: Sheet;
  geometry: Geometry;
  height: number;
}

interface SidePicture {
  side: Side;
  columns: Column[];
  allowed: Climb[];
  predicted: Climb[];
  measured: Climb[] | null;
  /** What is spent of the side: measured where it was, else predicted. */
  said: Figure | null;
}

/** Volts spent so far, piece by piece, under the stair of what was allowed so far. */
export function SpendChart({ sheet, geometry, height }: Props) {
  const { run } = sheet;
  const pass = passOnShow(sheet);
  const cell = (c: Column): Cell | null => (pass ? c[pass] : null);
  const pictures: SidePicture[] = run.sides.map((side) => {
    const columns = side.side === "feed" ? geometry.feed : geometry.back;
    const read = pass ? side[pass] : null;
    const measured = pass ? measuredClimb(columns, cell, read) : null;
    return {
      side,
      columns,
      allowed: climb(columns, (c) => c.allowance_v.si),
      predicted: climb(columns, (c) => c.predicted_v.si),
      measured,
      said: measured ? (read?.loaded_v ?? null) : side.guessed ? null : side.predicted_v,
    };
  });
  const top = tallest(
    run.sides,
    pictures.flatMap((p) => [p.allowed, p.predicted, p.measured]),
  );
  const base = height - 8;
  const y = (volts: number) => base - (Math.max(volts, 0) / top) * (base - 10);
  const middle = geometry.plate + TOTAL + LOAD / 2;
  return (
    <svg
      width={geometry.width - LABEL}
      height={height}
      role="img"
      aria-label={described(sheet, pictures)}
      className="block"
    >
      <Patterns />
      {pictures.map((p) => (
        <SideChart key={p.side.side} picture={p} geometry={geometry} y={y} base={base} />
      ))}
      <Gauge pictures={pictures} geometry={geometry} y={y} base={base} />
      <text
        x={middle}
        y={height / 2 - 2}
        textAnchor="middle"
        className="fill-ink text-[22px] font-bold"
      >
        {run.load_v === null && run.load.guessed ? "?" : brief(run.load_v ?? run.load.volts)}
        <tspan className="fill-soft text-[13px] font-normal"> V</tspan>
      </text>
      <text x={middle} y={height / 2 + 17} textAnchor="middle" className="fill-soft text-[13px]">
        at the load
      </text>
    </svg>
  );
}

function SideChart({
  picture,
  geometry,
  y,
  base,
}: {
  picture: SidePicture;
  geometry: Geometry;
  y: (volts: number) => number;
  base: number;
}) {
  const id = useId();
  const { columns, allowed, predicted, measured, side } = picture;
  if (columns.length === 0) return null;
  const left = (c: { id: string }) => geometry.leftOf(c.id);
  const right = (c: { id: string }) => left(c) + geometry.piece;
  const path = (steps: Climb[]) =>
    steps.map((s, i) => `${i ? "L" : "M"}${left(s)} ${y(s.from)}L${right(s)} ${y(s.to)}`).join("");
  const under = (steps: Climb[]) => {
    const first = steps[0];
    const last = steps[steps.length - 1];
    return first && last ? `${path(steps)}L${right(last)} ${base}L${left(first)} ${base}Z` : "";
  };
  const ceiling = side.ceiling_v?.si ?? null;
  const start = left(columns[0] as Column);
  const end = right(columns[columns.length - 1] as Column);
  const spent = measured ?? predicted;
  return (
    <g>
      <path d={under(allowed)} className="fill-tint" />
      <clipPath id={`${id}-over`}>
        <path d={`${path(allowed)}L${end} 0L${start} 0Z`} />
      </clipPath>
      {measured && <path d={under(measured.map((s) => s))} className="fill-copper-fill" />}
      {measured?.map(
        (s) =>
          !s.known && (
            <path
              key={s.id}
              d={`M${left(s)} ${y(s.from)}L${right(s)} ${y(s.to)}L${right(s)} ${base}L${left(s)} ${base}Z`}
              fill="url(#unknown)"
            />
          ),
      )}
      {!measured && side.guessed && <path d={under(allowed)} fill="url(#unknown)" />}
      <path
        d={measured || !side.guessed ? under(spent) : ""}
        fill="url(#over)"
        clipPath={`url(#${id}-over)`}
      />
      {!side.guessed && (
        <path
          d={path(predicted)}
          className="fill-none stroke-copper"
          strokeWidth={measured ? 1 : 2}
          strokeDasharray={measured ? "1.5 3" : "2 3.5"}
        />
      )}
      {measured?.map((s) => (
        <line
          key={s.id}
          x1={left(s)}
          y1={y(s.from)}
          x2={right(s)}
          y2={y(s.to)}
          className={s.known ? "stroke-copper" : "stroke-unknown"}
          strokeWidth={s.known ? 3 : 1.5}
        />
      ))}
      <path
        d={path(allowed)}
        className="fill-none stroke-slate"
        strokeWidth={1.8}
        strokeDasharray="6 4"
      />
      {ceiling !== null && (
        <line
          x1={start}
          x2={end}
          y1={y(ceiling)}
          y2={y(ceiling)}
          className="stroke-ink"
          strokeWidth={1.2}
        />
      )}
      <line x1={start} x2={end} y1={base} y2={base} className="stroke-rule" />
    </g>
  );
}

/** The plate's edges carry the scale of their side: the ceiling, and what was spent of it. */
function Gauge({
  pictures,
  geometry,
  y,
  base,
}: {
  pictures: SidePicture[];
  geometry: Geometry;
  y: (volts: number) => number;
  base: number;
}) {
  return pictures.map(({ side, predicted, measured, said }) => {
    const isFeed = side.side === "feed";
    const edge = isFeed ? geometry.plate : geometry.plate + 2 * TOTAL + LOAD;
    const inward = isFeed ? 1 : -1;
    const steps = measured ?? predicted;
    const spent = measured || !side.guessed ? (steps[steps.length - 1]?.to ?? 0) : 0;
    const marks: { volts: number; words: string; tone: string }[] = [
      { volts: spent, words: said ? `${brief(said)} spent` : "", tone: "fill-copper" },
    ];
    if (side.ceiling_v !== null)
      marks.push({
        volts: side.ceiling_v.si,
        words: `${brief(side.ceiling_v)} limit`,
        tone: "fill-ink",
      });
    const [low, high] = marks.sort((a, b) => a.volts - b.volts);
    const lowY = Math.min(y(low?.volts ?? 0), base - 2);
    const highY = high ? Math.min(y(high.volts), lowY - 14) : 0;
    return (
      <g key={side.side} className="text-[11px]">
        {marks.map((m) => (
          <line
            key={m.words}
            x1={edge}
            x2={edge + 6 * inward}
            y1={y(m.volts)}
            y2={y(m.volts)}
            className="stroke-ink"
          />
        ))}
        {[low, high].map(
          (m, i) =>
            m && (
              <text
                key={m.words}
                x={edge + 9 * inward}
                y={Math.max((i ? highY : lowY) + 4, 10)}
                textAnchor={isFeed ? "start" : "end"}
                className={m.tone}
              >
                {m.words}
              </text>
            ),
        )}
      </g>
    );
  });
}

function Patterns() {
  return (
    <defs>
      <pattern
        id="over"
        width="7"
        height="7"
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <rect width="7" height="7" className="fill-over-fill" />
        <line x1="0" y1="0" x2="0" y2="7" className="stroke-over" strokeWidth="2.4" />
      </pattern>
      <pattern
        id="unknown"
        width="7"
        height="7"
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(-45)"
      >
        <rect width="7" height="7" className="fill-canvas" />
        <line x1="0" y1="0" x2="0" y2="7" className="stroke-unknown" strokeWidth="1" />
      </pattern>
    </defs>
  );
}

function described(sheet: Sheet, pictures: SidePicture[]): string {
  const sides = pictures.map(({ side, measured, said }) => {
    const spent = brief(said);
    const of = side.ceiling_v === null ? "" : ` of ${brief(side.ceiling_v)}`;
    return `${sideWord(side.side)} ${measured ? "measured" : "calculated"} ${spent}${of} V`;
  });
  return `Volts spent: ${sides.join(", ")}; ${brief(sheet.run.load_v ?? sheet.run.load.volts)} V reach ${sheet.run.load.name}`;
}
