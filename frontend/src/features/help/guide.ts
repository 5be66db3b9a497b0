import guide from "../../../../docs/guide/README.md?raw";
import runLine from "../../../../docs/run-line.md?raw";

/** A part of the guide: what stands under one of its heads, as Markdown. */
export interface Part {
  title: string;
  /** 2 for a chapter, 3 for a part of one. */
  level: number;
  text: string;
}

const HEAD = /^(#{1,3}) (.+)$/;

/** A document cut at its heads; a first head without text of its own is left out. */
export function partsOf(document: string): Part[] {
  const parts: Part[] = [];
  for (const line of document.split("\n")) {
    const [, marks, title] = HEAD.exec(line) ?? [];
    if (marks && title) parts.push({ title, level: marks.length, text: "" });
    else {
      const last = parts.at(-1);
      if (last) last.text += `${line}\n`;
    }
  }
  return parts.filter((p) => p.text.trim());
}

/** The guide, and the words of the run line behind it. */
export const GUIDE: Part[] = [
  ...partsOf(guide),
  ...partsOf(runLine).map((p) => ({ ...p, level: Math.max(2, p.level) })),
];

/** Which part is about a page, by its address; the first that fits. */
const ABOUT: [RegExp, string][] = [
  [/^\/check/, "Check one load"],
  [/\/craft$/, "The craft"],
  [/\/source$/, "The source first"],
  [/\/walk$/, "The walk"],
  [/\/(upgrade|sizing|order)$/, "Repairs and upgrades"],
  [/\/proof$/, "The proof"],
  [/\/photographs$/, "Photographs"],
  [/\/logs/, "A meter's log"],
  [/\/(live|meters)$/, "Meters that speak"],
  [/\/timeline$/, "The jobs"],
  [/^\/jobs\/[^/]+$/, "The run sheet"],
  [/^\/(tables|learned|settings)/, "Tables and settings"],
  [/^\/phones/, "On the phone"],
  [/^\/practise/, "Practice"],
];

/** The title of the part about the page at an address. */
export const partAbout = (address: string): string =>
  ABOUT.find(([pattern]) => pattern.test(address))?.[1] ?? "The jobs";

/** The parts in which every word stands, those with it in their title first. */
export function found(words: string): Part[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const has = (text: string) => wanted.every((w) => text.toLowerCase().includes(w));
  const hits = GUIDE.filter((p) => has(`${p.title} ${p.text}`));
  return [...hits.filter((p) => has(p.title)), ...hits.filter((p) => !has(p.title))];
}
