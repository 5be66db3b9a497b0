import { whole } from "../../format/format";
import type { Craft } from "./api";

type Stretch = Craft["stretches"][number];

/** What a stretch loses; a question mark where part of it is not drawn. */
export const lost = (s: Stretch) => (s.drop_v === null ? "? V" : whole(s.drop_v));

/** A band of the picture: a shape, its label's place, and the stretch it stands for. */
export interface Band {
  stretch: Stretch;
  path: string;
  /** Where its figures can stand, and on how many lines; null where there is no room. */
  label: { x: number; y: number; lines: 1 | 2 } | null;
  /** Share of the most volts that any stretch has behind it, 0 to 1. */
  shade: number;
}
export interface Row {
  id: string;
  y: number;
}
export interface Picture {
  bands: Band[];
  rows: Row[];
  height: number;
  middle: [number, number];
}

const SLOT = 26;
const MOST_THICK = 96;
const BEND = 16;

/**
 * Lay out who loads what: feed bands from the left edge to the loads in the middle, return bands from
 * there to the right edge. Thickness goes with current; a band splits where loads part ways.
 */
export function layTrunk(craft: Craft, width: number): Picture {
  const stretches = craft.stretches.filter((s) => s.loads.length > 0);
  const most = Math.max(...stretches.map((s) => s.current_a.si), 0.001);
  const perAmpere = MOST_THICK / most;
  const spent = (s: Stretch) => s.before_v + Math.max(s.drop_v?.si ?? 0, 0);
  const mostSpent = Math.max(...stretches.map(spent), 0.001);
  const thick = (s: Stretch) => Math.max(s.current_a.si * perAmpere, 1.5);

  const slots = new Map<string, [number, number]>();
  let y = 4;
  for (const id of craft.order) {
    const own = stretches.filter((s) => s.loads.length === 1 && s.loads[0] === id);
    const tall = Math.max(SLOT, ...own.map((s) => thick(s) + 8));
    slots.set(id, [y, y + tall]);
    y += tall;
  }
  const height = y + 4;
  const label = Math.min(150, Math.max(96, width * 0.26));
  const middle: [number, number] = [(width - label) / 2, (width + label) / 2];

  const centre = (s: Stretch) => {
    const own = s.loads.map((id) => slots.get(id)).filter((slot) => slot !== undefined);
    const top = Math.min(...own.map((slot) => slot[0]));
    const bottom = Math.max(...own.map((slot) => slot[1]));
    return (top + bottom) / 2;
  };
  const bands: Band[] = [];
  for (const side of ["feed", "return"] as const) {
    const own = stretches.filter((s) => s.side === side);
    const deepest = Math.max(...own.map((s) => s.depth), 0);
    const step = middle[0] / (deepest + 1);
    const place = (x: number) => (side === "feed" ? x : width - x);
    const parentOf = (s: Stretch) =>
      own.find((p) => p.depth === s.depth - 1 && s.loads.every((id) => p.loads.includes(id)));
    const childrenOf = (p: Stretch) =>
      own
        .filter((s) => s.depth === p.depth + 1 && parentOf(s) === p)
        .sort((a, b) => centre(a) - centre(b));
    for (const s of own) {
      const half = thick(s) / 2;
      const at = centre(s);
      const parent = parentOf(s);
      const x0 = s.depth * step;
      const x1 = childrenOf(s).length ? x0 + step : middle[0] - 4;
      let from = at;
      if (parent) {
        const among = childrenOf(parent);
        const before = among.slice(0, among.indexOf(s)).reduce((sum, c) => sum + thick(c), 0);
        const together = among.reduce((sum, c) => sum + thick(c), 0);
        from = centre(parent) - together / 2 + before + half;
      }
      const bend = x0 + (parent ? BEND : 0);
      const [a, b, m, c] = [place(x0), place(x1), place(bend), place((x0 + bend) / 2)];
      bands.push({
        stretch: s,
        path:
          `M${a},${from - half} C${c},${from - half} ${c},${at - half} ${m},${at - half} ` +
          `L${b},${at - half} L${b},${at + half} L${m},${at + half} ` +
          `C${c},${at + half} ${c},${from + half} ${a},${from + half} Z`,
        label: room(x1 - bend, half * 2, (place(bend) + place(x1)) / 2, at),
        shade: spent(s) / mostSpent,
      });
    }
  }
  const rows = craft.order.map((id) => {
    const slot = slots.get(id) ?? [0, 0];
    return { id, y: (slot[0] + slot[1]) / 2 };
  });
  return { bands, rows, height, middle };
}

function room(wide: number, tall: number, x: number, y: number): Band["label"] {
  if (tall < 10) return null;
  if (wide >= 104) return { x, y, lines: 1 };
  return wide >= 52 && tall >= 26 ? { x, y, lines: 2 } : null;
}
