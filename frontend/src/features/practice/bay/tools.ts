import type { Act } from "../api";

/** What is laid on two points, and what that is called. */
export const TOOLS = [
  { id: "volts", name: "Volts" },
  { id: "amperes", name: "Clamp" },
  { id: "lamp", name: "Test lamp" },
  { id: "ohms", name: "Ohms" },
  { id: "join", name: "Spare wire" },
  { id: "stand_in", name: "Test load" },
] as const;
export type Tool = (typeof TOOLS)[number]["id"];

export const RANGES = [
  ["", "auto"],
  ["0.6", "0.6 V"],
  ["6", "6 V"],
  ["60", "60 V"],
  ["600", "600 V"],
] as const;

/** How volts are measured beside where: the range, what is moved meanwhile, over a start. */
export interface How {
  range: string;
  moved: string;
  start: boolean;
}
export const PLAIN: How = { range: "", moved: "", start: false };

/** A tool laid on two points as an act. */
export function laid(tool: Tool, red: string, black: string, how: How): Act {
  if (tool !== "volts") return { kind: tool, red, black };
  return {
    kind: "volts",
    red,
    black,
    moved: how.moved,
    start: how.start,
    range_v: how.range ? Number(how.range) : null,
  };
}
