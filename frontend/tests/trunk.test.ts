import { expect, test } from "vitest";
import type { Craft } from "../src/features/craft/api";
import { layTrunk } from "../src/features/craft/trunk";

const figure = (si: number) => ({ si, text: `${si}`, unit: "", brief: `${si}` });
type Stretch = Craft["stretches"][number];
const stretch = (side: "feed" | "return", depth: number, loads: string[], amps: number) =>
  ({ side, depth, loads, current_a: figure(amps), before_v: 0, drop_v: figure(0.1) }) as Stretch;
const craft = (stretches: Stretch[], order = ["pump", "fan"]) => ({ stretches, order }) as Craft;

/** The least and the most height of a band where it begins. */
function ends(path: string): [number, number] {
  const numbers = path.match(/-?[\d.]+/g)?.map(Number) ?? [];
  return [numbers[1] ?? 0, numbers.at(-1) ?? 0];
}

test("a band is as thick as its current, and its branches share its end without a gap", () => {
  const { bands } = layTrunk(
    craft([
      stretch("feed", 0, ["pump", "fan"], 10),
      stretch("feed", 1, ["pump"], 6),
      stretch("feed", 1, ["fan"], 4),
    ]),
    1000,
  );
  const [trunk, pump, fan] = bands.map((b) => ends(b.path));
  const thick = (e?: [number, number]) => (e ? e[1] - e[0] : 0);
  expect(thick(trunk)).toBeCloseTo(96);
  expect(thick(pump)).toBeCloseTo(57.6);
  expect(thick(fan)).toBeCloseTo(38.4);
  expect(pump?.[1]).toBeCloseTo(fan?.[0] ?? 0);
});

test("rows stand in the order of the craft, each with room for its own bands", () => {
  const { rows, height } = layTrunk(
    craft([stretch("feed", 0, ["pump"], 10), stretch("feed", 0, ["fan"], 1)]),
    800,
  );
  expect(rows.map((r) => r.id)).toEqual(["pump", "fan"]);
  expect((rows[1]?.y ?? 0) - (rows[0]?.y ?? 0)).toBeGreaterThan(48);
  expect(height).toBeGreaterThan(rows[1]?.y ?? 0);
});

test("a thin band has no figures on it, and a craft without current still has a picture", () => {
  const { bands } = layTrunk(
    craft([stretch("feed", 0, ["pump"], 100), stretch("return", 0, ["fan"], 0)]),
    800,
  );
  expect(bands[0]?.label).not.toBeNull();
  expect(bands[1]?.label).toBeNull();
  expect(layTrunk(craft([]), 800).bands).toEqual([]);
});
