import type { Column } from "../../../api/client";

export const LABEL = 126;
export const SOURCE = 66;
export const TOTAL = 70;
export const LOAD = 92;
const NARROWEST = 58;
/** Where even what is folded leaves no room: still wide enough for a figure. */
const NARROWEST_FOLDED = 50;
/** From here on a sign and a figure of five places stand side by side in their usual size. */
const ROOMY = 64;
const WIDEST = 150;

/** The columns of a run sheet in pixels; chart and ledger share them. */
export interface Geometry {
  feed: Column[];
  back: Column[];
  piece: number;
  width: number;
  /** Left edge of a piece's column, from the left edge of the source column. */
  leftOf: (id: string) => number;
  plate: number;
  /** Whether columns are too narrow for figures in their usual size. */
  narrow: boolean;
}

function fits(columns: Column[], room: number, least: number): boolean {
  return LABEL + SOURCE + 2 * TOTAL + LOAD + columns.length * least <= room;
}

/** What must be folded for feed, load and return to be in sight: what others share, then the longest. */
export function needed(columns: Column[], folds: Column[], room: number): Column[] {
  if (fits(columns, room, NARROWEST)) return [];
  const using = folds.filter((f) => f.shared_with.length > 0);
  const own = folds.filter((f) => f.shared_with.length === 0);
  for (const next of own.sort((a, b) => b.pieces.length - a.pieces.length)) {
    if (fits(folded(columns, using), room, NARROWEST_FOLDED)) break;
    using.push(next);
  }
  return using;
}

/** The columns with each fold in place of its pieces. */
export function folded(columns: Column[], folds: Column[]): Column[] {
  const first = new Map(folds.map((f) => [f.pieces[0], f]));
  const inside = new Set(folds.flatMap((f) => f.pieces));
  return columns.flatMap((c) => first.get(c.id) ?? (inside.has(c.id) ? [] : [c]));
}

/** Lay the columns of a run into `room` pixels: as wide as they may be, never below readable. */
export function lay(columns: Column[], room: number, fold = false): Geometry {
  const feed = columns.filter((c) => c.side === "feed");
  const back = columns.filter((c) => c.side === "return");
  const fixed = LABEL + SOURCE + 2 * TOTAL + LOAD;
  const share = Math.floor((room - fixed) / Math.max(columns.length, 1));
  const piece = Math.min(WIDEST, Math.max(fold ? NARROWEST_FOLDED : NARROWEST, share));
  const plate = SOURCE + feed.length * piece;
  const places = new Map<string, number>();
  feed.forEach((c, i) => {
    places.set(c.id, SOURCE + i * piece);
  });
  back.forEach((c, i) => {
    places.set(c.id, plate + 2 * TOTAL + LOAD + i * piece);
  });
  return {
    feed,
    back,
    piece,
    plate,
    width: fixed + columns.length * piece,
    narrow: piece < ROOMY,
    leftOf: (id) => places.get(id) ?? 0,
  };
}
