import { useEffect } from "react";
import type { Stage } from "../../api/client";
import type { Desk } from "./desk";

const STAGE_KEYS: Record<string, Stage> = { KeyF: "as_found", KeyP: "planned", KeyL: "as_left" };

/** Where a key leads on the page, by what the part is marked with. */
const PART_KEYS: Record<string, string> = { KeyI: "inspector", KeyR: "says" };

/** The keys of the sheet; the guide says which they are. */
export function useSheetKeys(desk: Desk): void {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement | null;
      const typing = target instanceof HTMLInputElement || target instanceof HTMLSelectElement;
      // Escape that has closed a dialog is used up.
      if (event.defaultPrevented || document.querySelector("[role=dialog]")) return;
      if (event.key === "Escape" && !typing) {
        desk.select(null);
      } else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !typing) {
        event.preventDefault();
        desk.step(event.shiftKey ? "redo" : "undo");
      } else if (event.altKey) {
        if (byAlt(event, desk)) event.preventDefault();
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [desk]);
}

function byAlt(event: KeyboardEvent, desk: Desk): boolean {
  const { sheet, go } = desk;
  const stage = STAGE_KEYS[event.code];
  if (stage && sheet.stages.some((s) => s.stage === stage)) {
    go({ stage });
    return true;
  }
  const part = PART_KEYS[event.code];
  if (part) return goTo(part);
  if (event.key === "ArrowDown" || event.key === "ArrowUp") {
    const at = sheet.runs.findIndex((r) => r.id === sheet.run.load.id);
    const next = sheet.runs[at + (event.key === "ArrowDown" ? 1 : -1)];
    if (next) go({ run: next.id });
    return next !== undefined;
  }
  const scenario = /^Digit[1-9]$/.test(event.code)
    ? sheet.scenarios[Number(event.code[5]) - 1]
    : undefined;
  if (scenario) go({ scenario: scenario.id, on: undefined });
  return scenario !== undefined;
}

/** Puts the focus on the first thing to do in a part of the page; false where the page has no such part. */
export function goTo(part: string): boolean {
  const first = document.querySelector<HTMLElement>(
    `[data-part=${part}] :is(button, input, select, a[href]):not(:disabled)`,
  );
  first?.focus();
  return first !== null;
}
