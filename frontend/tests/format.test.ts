import { afterEach, expect, test } from "vitest";
import {
  bare,
  brief,
  type Figure,
  marked,
  more,
  sideWord,
  speak,
  volts,
  whole,
} from "../src/format/format";

const plain = { comma: "no", length: "m", volts: "V", back_word: "return" } as const;
const figure = (si: number, text: string, unit = "V"): Figure => ({ si, text, unit, brief: text });

afterEach(() => speak(plain));

test("a figure brings its unit where its head names another", () => {
  expect(bare(figure(0.14, "140", "mV"), "V")).toBe("140 mV");
  expect(bare(figure(0.14, "0.140"), "V")).toBe("0.140");
  expect(bare(null)).toBe("");
  speak({ ...plain, volts: "mV" });
  expect(volts(figure(0.14, "140", "mV"))).toBe("140");
});

test("what is not known is a dash", () => {
  expect(whole(undefined)).toBe("–");
  expect(brief(null)).toBe("–");
  expect(whole(figure(0.14, "0.140"))).toBe("0.140 V");
});

test("more has a sign, and nothing has none", () => {
  expect(more(figure(0.021, "0.021"))).toBe("+0.021 V");
  expect(more(figure(-0.021, "−0.021"))).toBe("−0.021 V");
  expect(more(figure(1e-9, "0.000"))).toBe("0.000 V");
});

test("the decimal mark and the word for the return are the workshop's", () => {
  expect(marked(2.5)).toBe("2.5");
  expect(sideWord("return")).toBe("return");
  speak({ ...plain, comma: "yes", back_word: "ground" });
  expect(marked(2.5)).toBe("2,5");
  expect([sideWord("feed"), sideWord("return")]).toEqual(["feed", "ground"]);
});
