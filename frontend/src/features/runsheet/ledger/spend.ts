import type { Cell, Column, Side } from "../../../api/client";

/** One step of a climbing line: volts before and after a piece. */
export interface Climb {
  id: string;
  from: number;
  to: number;
  known: boolean;
}

/** Volts after each piece in turn. A way beside others, or what is to take volts, adds nothing. */
export function climb(columns: Column[], drop: (c: Column) => number): Climb[] {
  let spent = 0;
  return columns.map((c) => {
    const from = spent;
    if (!c.beside && !c.on_purpose) spent += drop(c);
    return { id: c.id, from, to: spent, known: true };
  });
}

/**
 * The measured climb of one side. Pieces that nobody measured share what the whole side has over
 * the measured ones, in the proportion in which they were predicted; they are marked unknown.
 * Null where nothing on the side was measured.
 */
export function measuredClimb(
  columns: Column[],
  cell: (c: Column) => Cell | null,
  side: Cell | null,
): Climb[] | null {
  const read = (c: Column) => {
    const held = cell(c);
    return held && !held.set_aside && held.state === "value" ? (held.loaded_v?.si ?? null) : null;
  };
  const main = columns.filter((c) => !c.beside && !c.on_purpose);
  const known = main.filter((c) => read(c) !== null);
  const whole = side && !side.set_aside ? (side.loaded_v?.si ?? null) : null;
  if (known.length === 0 && whole === null) return null;
  const dark = main.filter((c) => read(c) === null);
  const expected = dark.reduce((sum, c) => sum + c.predicted_v.si, 0);
  const measured = known.reduce((sum, c) => sum + (read(c) ?? 0), 0);
  const left = whole === null ? expected : Math.max(whole - measured, 0);
  const climbs = climb(columns, (c) => {
    const own = read(c);
    if (own !== null) return own;
    return expected > 0 ? (left * c.predicted_v.si) / expected : left / Math.max(dark.length, 1);
  });
  const sure = new Set(known.map((c) => c.id));
  return climbs.map((step) => ({ ...step, known: sure.has(step.id) }));
}

/** The highest volts a chart of both sides has to hold. */
export function tallest(sides: Side[], climbs: (Climb[] | null)[]): number {
  const tops = climbs.flatMap((steps) => steps?.map((s) => s.to) ?? []);
  return Math.max(0.05, ...sides.map((s) => s.ceiling_v?.si ?? 0), ...tops) * 1.1;
}
