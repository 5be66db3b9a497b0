import { createContext, useContext } from "react";
import type { Body, Edit, Schema, Sheet } from "../../api/client";
import type { View } from "./api";

/** One place on the sheet where a reading can be typed. */
export interface Spot {
  stage: "as_found" | "as_left";
  quantity: "volts" | "amperes";
  red: string;
  black: string;
  /** What a person calls this span: `Ring at bus`, `whole return`. */
  name: string;
}

/** A change of the drawing that the sheet can make. */
export type Said = {
  [T in "lines" | "columns" | "runs"]: { to: T; body: Body<T> };
}["lines" | "columns" | "runs"];

/** What the parts of the sheet share: what is shown, and what can be done to it. */
export interface Desk {
  /** What is shown: things as they are kept, or as a what-if would make them. */
  sheet: Sheet;
  /** Things as they are kept. */
  kept: Sheet;
  view: View;
  go: (view: Partial<View>) => void;
  selected: string | null;
  select: (id: string | null) => void;
  /** Keep a typed reading; resolves to what was wrong, or null. */
  take: (spot: Spot, typed: string, supersedes: string | null) => Promise<string | null>;
  /** Take back a reading that was typed wrong; resolves to what was wrong with that, or null. */
  takeBack: (wrong: Schema["ToldReading"]) => Promise<string | null>;
  /** Keep a changed figure; resolves to what was wrong, or null. */
  change: (element: string, edit: Edit, correct?: boolean) => Promise<string | null>;
  /** Show what an edit would do, without keeping it; null shows things as they are. */
  wonder: (element: string, edit: Edit | null, correct?: boolean) => void;
  wondering: boolean;
  /** Whether folded pieces stand side by side though there is no room for them. */
  unfolded: boolean;
  setUnfolded: (unfolded: boolean) => void;
  /** Whether a piece is being put in behind the selected one. */
  adding: boolean;
  setAdding: (adding: boolean) => void;
  /** Change the drawing: a run line, a column, a whole run. Resolves to what was wrong, or null. */
  draw: (said: Said, correct?: boolean) => Promise<string | null>;
  finish: () => void;
  step: (direction: "undo" | "redo") => void;
}

export const DeskContext = createContext<Desk | null>(null);

export function useDesk(): Desk {
  const desk = useContext(DeskContext);
  if (!desk) throw new Error("a part of the sheet stands outside its page");
  return desk;
}

/** The stage whose readings the sheet is about: what is measured next. */
export function passOnShow(sheet: Sheet): "found" | "left" | null {
  if (sheet.stage === "as_found") return "found";
  return sheet.stage === "as_left" ? "left" : null;
}
