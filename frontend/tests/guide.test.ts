import { expect, test } from "vitest";
import { jobPages, WORKSHOP } from "../src/features/find/pages";
import { found, GUIDE, partAbout, partsOf } from "../src/features/help/guide";

test("a document is cut at its heads, and what has no text is no part", () => {
  const parts = partsOf("# All\n\n## One\ntext\n### Two\nmore\nlines\n## None\n");
  expect(parts.map((p) => [p.title, p.level])).toEqual([
    ["One", 2],
    ["Two", 3],
  ]);
  expect(parts[1]?.text).toBe("more\nlines\n");
});

test("the guide has a part about every page", () => {
  const titles = GUIDE.map((p) => p.title);
  expect(new Set(titles).size).toBe(titles.length);
  const pages = [...jobPages("boat"), ...WORKSHOP].map(([to]) => to.split("?")[0] ?? "");
  for (const page of pages) expect(titles).toContain(partAbout(page));
  expect(partAbout("/jobs/boat/walk")).toBe("The walk");
  expect(partAbout("/jobs/boat/logs/x")).toBe("A meter's log");
  expect(partAbout("/somewhere")).toBe("The jobs");
});

test("parts are found by all of the words, titles first", () => {
  expect(found("hand-over camera")[0]?.title).toBe("Photographs");
  expect(found("PROOF")[0]?.title).toBe("The proof");
  expect(found("xylophone zzz")).toEqual([]);
});
