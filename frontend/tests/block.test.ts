import { expect, test } from "vitest";
import { blockOf, hasHeads } from "../src/features/craft/table/block";

test("a block is more than one cell, by lines and tabs", () => {
  expect(blockOf("2.5")).toBeNull();
  expect(blockOf("a, b")).toBeNull();
  expect(blockOf("a\tb")).toEqual([["a", "b"]]);
  expect(blockOf("a\r\n b \r\n")).toEqual([["a"], ["b"]]);
});

test("a first row without figures is heads", () => {
  expect(
    hasHeads([
      ["Load", "A"],
      ["Fan", "2"],
    ]),
  ).toBe(true);
  expect(
    hasHeads([
      ["Fan", "2"],
      ["Lamp", "1"],
    ]),
  ).toBe(false);
  expect(hasHeads([["Load", "A"]])).toBe(false);
});
