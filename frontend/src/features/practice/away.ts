import { useSyncExternalStore } from "react";
import { keep, kept } from "../../offline/device";
import type { Act, Ahead, Bay } from "./api";

/**
 * Readings taken in an exercise where the program does not answer: what they show was known ahead, and they are sent
 * in their order as soon as it answers. Nothing else of an exercise goes on meanwhile.
 */
export interface Held {
  number: number;
  act: Act;
  says: string;
  shown: string;
}

const key = (attempt: string) => `spare-margin.practice.${attempt}`;
const watchers = new Set<() => void>();
const parsed = new Map<string, [text: string | null, held: Held[]]>();
const NONE: Held[] = [];

/** The readings that wait, of one exercise. */
export function heldOf(attempt: string): Held[] {
  const text = kept(key(attempt));
  const before = parsed.get(attempt);
  if (before && before[0] === text) return before[1];
  let held = NONE;
  try {
    held = text ? JSON.parse(text) : NONE;
  } catch {
    // What cannot be read is no reading.
  }
  parsed.set(attempt, [text, held]);
  return held;
}

/** Keep what waits of an exercise. */
export function hold(attempt: string, held: Held[]): void {
  keep(key(attempt), held.length > 0 ? JSON.stringify(held) : null);
  for (const tell of watchers) tell();
}

/** The readings that wait, as they are now. */
export function useHeld(attempt: string): Held[] {
  return useSyncExternalStore(
    (tell) => {
      watchers.add(tell);
      return () => watchers.delete(tell);
    },
    () => heldOf(attempt),
  );
}

/** Whether an act is one whose figure is known ahead: plain volts over two points, or the clamp. */
function isKnown(act: Act): boolean {
  if (act.kind === "amperes") return true;
  const plain = !act.moved && !act.start && (act.range_v ?? null) === null;
  return act.kind === "volts" && plain && Boolean(act.red && act.black);
}

/** A reading by what was known ahead; nothing where it was not known so far. */
export function readAhead(
  bay: Bay,
  ahead: Ahead | undefined,
  number: number,
  act: Act,
): Held | undefined {
  if (!ahead || !isKnown(act)) return undefined;
  const step = number - ahead.number;
  const clamped = act.kind === "amperes";
  const shown = clamped
    ? ahead.amperes[step]?.[act.element ?? ""]
    : ahead.volts[step]?.[`${act.red} ${act.black}`];
  if (shown === undefined) return undefined;
  const name = (id?: string) => bay.points.find((p) => p.id === id)?.name ?? "";
  const round = [...bay.loads, ...bay.things].find((each) => each.id === act.element)?.name ?? "";
  const says = (clamped ? ahead.clamp_says : ahead.volts_says)
    .replace("{red}", name(act.red))
    .replace("{black}", name(act.black))
    .replace("{element}", round);
  return { number, act, says, shown };
}

/** The bay with a reading more that waits. */
export function withReading(bay: Bay, { number, act, says, shown }: Held): Bay {
  const line = { number, kind: act.kind, says, shown, minutes: 0, danger: "" };
  const leads = act.kind === "volts" ? { red: act.red ?? "", black: act.black ?? "" } : {};
  return {
    ...bay,
    ...leads,
    number: number + 1,
    display: { says, shown },
    acts: [...bay.acts, line],
  };
}
