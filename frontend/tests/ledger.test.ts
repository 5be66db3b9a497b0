import { expect, test } from "vitest";
import type { Cell, Column, Side } from "../src/api/client";
import {
  folded,
  LABEL,
  LOAD,
  lay,
  needed,
  SOURCE,
  TOTAL,
} from "../src/features/runsheet/ledger/geometry";
import { climb, measuredClimb, tallest } from "../src/features/runsheet/ledger/spend";

const volts = (si: number) => ({ si, text: `${si}`, unit: "V", brief: `${si}` });
const column = (id: string, side: "feed" | "return", more: Partial<Column> = {}) =>
  ({
    id, side, predicted_v: volts(0.1), pieces: [], shared_with: [], beside: false, on_purpose: false,
    ...more,
  }) as unknown as Column; // biome-ignore format: a test's few fields
const cell = (si: number, more: Partial<Cell> = {}) =>
  ({ loaded_v: volts(si), set_aside: false, state: "value", ...more }) as Cell;
const FIXED = LABEL + SOURCE + 2 * TOTAL + LOAD;

test("the columns stand side by side: source, feed, load, return", () => {
  const made = lay([column("a", "feed"), column("b", "feed"), column("c", "return")], FIXED + 300);
  expect(made.piece).toBe(100);
  expect(made.leftOf("a")).toBe(SOURCE);
  expect(made.leftOf("b")).toBe(SOURCE + 100);
  expect(made.leftOf("c")).toBe(made.plate + 2 * TOTAL + LOAD);
  expect(made.width).toBe(FIXED + 300);
  expect(made.leftOf("nobody")).toBe(0);
});

test("columns are never narrower than a figure, nor wider than is read at a glance", () => {
  const many = Array.from({ length: 24 }, (_, i) => column(`c${i}`, "feed"));
  expect(lay(many, 900).piece).toBe(58);
  expect(lay(many, 900).narrow).toBe(true);
  expect(lay(many, 900, true).piece).toBe(50);
  expect(lay([column("a", "feed")], 5000).piece).toBe(150);
  expect(lay([], 900).piece).toBe(150);
});

test("what others share is folded first, then the longest of one's own, and no more than it takes", () => {
  const ids = Array.from({ length: 16 }, (_, i) => `c${i}`);
  const columns = ids.map((id) => column(id, "feed"));
  const shared = column("shared", "feed", { pieces: ids.slice(0, 4), shared_with: ["pump"] });
  const short = column("short", "feed", { pieces: ids.slice(4, 6) });
  const long = column("long", "feed", { pieces: ids.slice(6, 14) });
  const folds = [short, long, shared];
  expect(needed(columns, folds, FIXED + 16 * 58)).toEqual([]);
  expect(needed(columns, folds, FIXED + 13 * 50)).toEqual([shared]);
  expect(needed(columns, folds, FIXED + 7 * 50)).toEqual([shared, long]);
  expect(folded(columns, [shared, long]).map((c) => c.id)).toEqual([
    "shared", "c4", "c5", "long", "c14", "c15",
  ]); // biome-ignore format: one line
});

test("volts climb piece by piece; a way beside others, or what is to take volts, adds nothing", () => {
  const steps = climb(
    [column("a", "feed"), column("b", "feed", { beside: true }), column("c", "feed")],
    () => 0.2,
  );
  expect(steps.map((s) => [s.from, s.to])).toEqual([
    [0, 0.2],
    [0.2, 0.2],
    [0.2, 0.4],
  ]);
});

test("what nobody measured shares what the side has over the measured, as it was predicted", () => {
  const columns = [
    column("a", "feed", { predicted_v: volts(0.1) } as Partial<Column>),
    column("b", "feed", { predicted_v: volts(0.3) } as Partial<Column>),
    column("c", "feed"),
  ];
  const read = (c: Column) => (c.id === "c" ? cell(0.5) : null);
  const steps = measuredClimb(columns, read, cell(0.9));
  expect(steps?.map((s) => Number((s.to - s.from).toFixed(6)))).toEqual([0.1, 0.3, 0.5]);
  expect(steps?.map((s) => s.known)).toEqual([false, false, true]);
  expect(measuredClimb(columns, () => null, null)).toBeNull();
  const aside = measuredClimb(columns, () => cell(9, { set_aside: true }), cell(0.4));
  expect(aside?.at(-1)?.to).toBeCloseTo(0.4);
  const over = measuredClimb(columns, read, cell(0.3));
  expect(over?.at(-1)?.to).toBeCloseTo(0.5);
});

test("a chart holds the highest of limits and climbs, with some air above", () => {
  const side = (limit: number | null) =>
    ({ ceiling_v: limit === null ? null : volts(limit) }) as Side;
  expect(tallest([side(0.5), side(null)], [null])).toBeCloseTo(0.55);
  expect(tallest([side(null)], [climb([column("a", "feed")], () => 2)])).toBeCloseTo(2.2);
  expect(tallest([], [])).toBeCloseTo(0.055);
});
