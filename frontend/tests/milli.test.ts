import { describe, expect, it } from "vitest";
import { inMilli, isBare, mayBeWhole, mustBeMilli, withUnit } from "../src/format/milli";

describe("what a bare figure is typed in", () => {
  it.each(["140", "0.14", "-140", "\u2212140", "0,14", "30-40"])("%s is bare", (typed) => {
    expect(isBare(typed)).toBe(true);
  });
  it.each(["140 mV", "140m", "OL", "wandering", ""])("%s is not", (typed) => {
    expect(isBare(typed)).toBe(false);
  });
  it("is thousandths where there cannot be so many volts", () => {
    expect(mustBeMilli("140", 16)).toBe(true);
    expect(mustBeMilli("-140", 16)).toBe(true);
  });
  it("is volts wherever it may be: a drop is never taken for a thousandth of it", () => {
    expect(mustBeMilli("0.14", 16)).toBe(false);
    expect(mustBeMilli("3.2", 16)).toBe(false);
    expect(mustBeMilli("12.6", 16)).toBe(false);
    expect(mustBeMilli("140", null)).toBe(false);
  });
  it("is asked about where it is next to nothing in thousandths", () => {
    expect(["0.31", "-0,3"].map(mayBeWhole)).toEqual([true, true]);
    expect(["0", "140", "1.2", "0.31 mV", "OL"].some(mayBeWhole)).toBe(false);
  });
  it("is shown with its unit", () => {
    expect(withUnit("0.14", "V")).toBe("0.14 V");
    expect(withUnit("140m", "V")).toBe("140 mV");
    expect(withUnit("140 mV", "V")).toBe("140 mV");
    expect(withUnit("OL", "V")).toBe("OL");
  });
  it("is sent with its unit, once", () => {
    expect(inMilli("140", "V", true)).toBe("140 mV");
    expect(inMilli("140 mV", "V", true)).toBe("140 mV");
    expect(inMilli("140", "A", false)).toBe("140");
    expect(inMilli("OL", "V", true)).toBe("OL");
  });
});
