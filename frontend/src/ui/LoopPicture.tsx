import type { Schema } from "../api/client";

type Piece = Schema["LoopPiece"];

const WIDE = 360;
const HIGH = 128;
const TOP = 42;
const LOW = 92;
const FROM = 56;
const TO = 296;
/** A suspicion below this is not drawn. */
const TOLD = 0.05;

interface Spot {
  id: string;
  x: number;
  y: number;
}

/** So many points of a side have room for a thumb; of a longer one the dullest are left out. */
const MOST_POINTS = 9;

/** A piece of the picture: one piece, or several in a row of which nothing is to be told apart. */
interface Part extends Piece {
  count: number;
}

/** The pieces of a side, those in a row joined that tell least, until its points have room. */
function parts(pieces: Piece[], kept: string[]): Part[] {
  const out: Part[] = pieces.map((p) => ({ ...p, count: 1 }));
  const dull = (i: number) => {
    const [a, b] = [out[i], out[i + 1]];
    if (!a || !b || kept.includes(a.exit)) return Number.POSITIVE_INFINITY;
    const read = a.verdict !== "not_measured" || b.verdict !== "not_measured";
    return Math.max(a.suspicion, b.suspicion) + (read ? 1 : 0) + 0.02 * (a.count + b.count);
  };
  while (out.length + 1 > MOST_POINTS) {
    const places = out.slice(0, -1).map((_, i) => i);
    const at = places.reduce((best, i) => (dull(i) < dull(best) ? i : best), 0);
    const [a, b] = [out[at], out[at + 1]];
    if (!a || !b || dull(at) === Number.POSITIVE_INFINITY) break;
    out.splice(at, 2, {
      ...a,
      exit: b.exit,
      kind: "conductor",
      undrawn: a.undrawn && b.undrawn,
      open: a.open || b.open,
      suspicion: Math.min(a.suspicion + b.suspicion, 1),
      count: a.count + b.count,
    });
  }
  return out;
}

/** Where the test points of one side stand, in the order the current passes them. */
function spots(pieces: Piece[], feed: boolean): Spot[] {
  const first = pieces[0];
  if (!first) return [];
  const ids = [first.entry, ...pieces.map((p) => p.exit)];
  const step = (TO - FROM) / Math.max(ids.length - 1, 1);
  return ids.map((id, i) => ({
    id,
    x: feed ? FROM + i * step : TO - i * step,
    y: feed ? TOP : LOW,
  }));
}

interface Props {
  loop: Schema["LoopOut"];
  /** The points the two leads are on. */
  red: string;
  black: string;
  /** The first of two points, while the second is still to be tapped. */
  picked: string | null;
  /** What a tap on a point does; without it nothing can be tapped. */
  onPick?: (point: string) => void;
  name: (point: string) => string;
  /** Instead of its points its pieces are tapped: the one that is moved, and what a tap on one does. */
  pieces?: { moving: string; onTap: (piece: string) => void };
}

/**
 * The loop as it is wired: feed above, return below, both leads at their points; what was read is drawn
 * solid, what nobody has drawn dashed, what is suspected hatched. Two points tapped are measured.
 */
export function LoopPicture({ loop, red, black, picked, onPick, name, pieces }: Props) {
  const held = [red, black, ...(picked === null ? [] : [picked])];
  const [out, home] = [parts(loop.feed, held), parts(loop.back, held)];
  const feed = spots(out, true);
  const back = spots(home, false);
  const every = [...feed, ...back];
  const gap = Math.min(
    ...[feed, back].map((line) => (TO - FROM) / Math.max(line.length - 1, 1)),
    44,
  );
  const at = (id: string) => every.find((s) => s.id === id);
  return (
    <div className="relative mx-auto mt-1 w-full max-w-[26rem]" data-testid="loop">
      <svg viewBox={`0 0 ${WIDE} ${HIGH}`} className="block w-full" aria-hidden>
        <defs>
          <pattern
            id="suspected"
            width="6"
            height="6"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <rect width="6" height="6" className="fill-over-fill" />
            <rect width="2.4" height="6" className="fill-over" />
          </pattern>
        </defs>
        <path
          d={`M ${FROM} ${TOP} H 30 V ${LOW} H ${FROM} M ${TO} ${TOP} H ${WIDE - 30} V ${LOW} H ${TO}`}
          className="fill-none stroke-rule"
          strokeWidth={2}
        />
        {out.map((p, i) => (
          <Drawn key={p.id} piece={p} from={feed[i]} to={feed[i + 1]} />
        ))}
        {home.map((p, i) => (
          <Drawn key={p.id} piece={p} from={back[i]} to={back[i + 1]} />
        ))}
        <Plate x={2} words="source" />
        <Plate x={WIDE - 58} words="load" />
        {every.map((s) => (
          <circle
            key={s.id}
            cx={s.x}
            cy={s.y}
            r={s.id === picked ? 6 : 3.5}
            className={s.id === picked ? "fill-copper stroke-ink" : "fill-canvas stroke-ink"}
            strokeWidth={1.5}
          />
        ))}
        <Lead spot={at(red)} word="R" colour="var(--lead-red)" />
        <Lead spot={at(black)} word="B" colour="var(--lead-black)" />
      </svg>
      {pieces && <Taps parts={out} spots={feed} {...pieces} />}
      {pieces && <Taps parts={home} spots={back} {...pieces} />}
      {(pieces || !onPick ? [] : every).map((s) => (
        <button
          key={s.id}
          type="button"
          aria-pressed={s.id === picked}
          aria-label={`Measure at ${name(s.id)}`}
          onClick={() => onPick?.(s.id)}
          className="absolute rounded-full focus-visible:outline-2 focus-visible:outline-slate"
          style={{
            left: `${((s.x - gap / 2) / WIDE) * 100}%`,
            width: `${(gap / WIDE) * 100}%`,
            top: s.y === TOP ? "8%" : "52%",
            height: "44%",
          }}
        />
      ))}
    </div>
  );
}

/** The pieces of a side, to be tapped. */
function Taps({
  parts: all,
  spots: at,
  moving,
  onTap,
}: {
  parts: Part[];
  spots: Spot[];
  moving: string;
  onTap: (piece: string) => void;
}) {
  return all.map((p, i) => {
    const [from, to] = [at[i], at[i + 1]];
    // Several drawn as one are told apart in a list, not here.
    if (!from || !to || p.count > 1) return null;
    return (
      <button
        key={p.id}
        type="button"
        aria-pressed={p.id === moving}
        aria-label={`Moving ${p.name}`}
        onClick={() => onTap(p.id === moving ? "" : p.id)}
        className="absolute rounded border-2 border-transparent focus-visible:outline-2 focus-visible:outline-slate aria-pressed:border-copper"
        style={{
          left: `${(Math.min(from.x, to.x) / WIDE) * 100}%`,
          width: `${(Math.abs(to.x - from.x) / WIDE) * 100}%`,
          top: from.y === TOP ? "8%" : "52%",
          height: "44%",
        }}
      />
    );
  });
}

/** One piece between its two points, as it was read. */
function Drawn({ piece, from, to }: { piece: Part; from?: Spot; to?: Spot }) {
  if (!from || !to) return null;
  const line = { x1: from.x, x2: to.x, y1: from.y, y2: to.y };
  const read = piece.verdict !== "not_measured";
  const bad = piece.verdict === "over";
  const low = Math.min(from.x, to.x);
  const fixed = piece.kind !== "conductor" && piece.kind !== "unknown";
  return (
    <g>
      {piece.suspicion >= TOLD && (
        <rect
          x={low + 2}
          y={from.y - 9}
          width={Math.max(Math.abs(to.x - from.x) - 4, 2)}
          height={18}
          rx={5}
          fill="url(#suspected)"
          opacity={0.25 + 0.75 * piece.suspicion}
        />
      )}
      <line
        {...line}
        className={bad ? "stroke-over" : read ? "stroke-copper" : "stroke-ink"}
        strokeWidth={read ? 5 : 2.5}
        strokeDasharray={piece.undrawn && !fixed ? "7 5" : undefined}
      />
      {piece.count > 1 && (
        <text
          x={(from.x + to.x) / 2}
          y={from.y === TOP ? from.y + 20 : from.y - 11}
          textAnchor="middle"
          className="fill-soft text-[11px]"
        >
          {piece.count}
        </text>
      )}
      {fixed && (
        <rect
          x={(from.x + to.x) / 2 - 5}
          y={from.y - 6}
          width={10}
          height={12}
          rx={2}
          className={`fill-canvas ${bad ? "stroke-over" : "stroke-ink"}`}
          strokeWidth={1.5}
          strokeDasharray={piece.open ? "3 3" : undefined}
        />
      )}
    </g>
  );
}

function Plate({ x, words }: { x: number; words: string }) {
  return (
    <g>
      <rect
        x={x}
        y={(TOP + LOW) / 2 - 13}
        width={56}
        height={26}
        rx={4}
        className="fill-plate stroke-ink"
        strokeWidth={1.5}
      />
      <text
        x={x + 28}
        y={(TOP + LOW) / 2 + 4.5}
        textAnchor="middle"
        className="fill-ink text-[13px]"
      >
        {words}
      </text>
    </g>
  );
}

/** A test lead standing on a point: above the feed, below the return. */
function Lead({ spot, word, colour }: { spot?: Spot; word: string; colour: string }) {
  if (!spot) return null;
  const up = spot.y === TOP;
  const far = up ? 10 : HIGH - 10;
  const tip = up ? spot.y - 6 : spot.y + 6;
  return (
    <g stroke={colour} fill={colour}>
      <line x1={spot.x} x2={spot.x} y1={far} y2={tip} strokeWidth={3} />
      <path d={`M ${spot.x} ${tip + (up ? 2 : -2)} l -5 ${up ? -9 : 9} h 10 Z`} strokeWidth={1} />
      <rect x={spot.x - 9} y={far - 9} width={18} height={18} rx={9} strokeWidth={0} />
      <text
        x={spot.x}
        y={far + 4.5}
        textAnchor="middle"
        stroke="none"
        className="fill-canvas text-[12px] font-bold"
      >
        {word}
      </text>
    </g>
  );
}
