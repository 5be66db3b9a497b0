import { useEffect, useRef } from "react";

/** What takes: the space bar, Enter, and what a presenter's or a pedal's switch sends. */
const TAKES = [" ", "Enter", "PageDown"];
/** What takes back: the other switch. */
const BACK = ["PageUp"];
/** What Enter and space are for where the focus is. */
const PRESSED = "button, a, summary, select, textarea, [role=button], [role=dialog] *";

/** Take and undo by key, wherever the focus is but on what these keys press, or in a box with something in it. */
export function useTakeKeys(take: () => void, undo: () => void): void {
  const now = useRef({ take, undo });
  now.current = { take, undo };
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.defaultPrevented || event.repeat || event.altKey) return;
      const at = event.target;
      if (document.querySelector("[role=dialog], [role=alertdialog]")) return;
      const back = (event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z";
      const presenter = event.key === "PageDown" || BACK.includes(event.key);
      if (at instanceof Element && !presenter) {
        if (at.matches(PRESSED)) return;
        if (at instanceof HTMLInputElement && at.type !== "text" && at.type !== "") return;
        if (at instanceof HTMLInputElement && at.value !== "") return;
      }
      if (TAKES.includes(event.key) && !event.ctrlKey && !event.metaKey) now.current.take();
      else if (BACK.includes(event.key) || back) now.current.undo();
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
}
