import { lazy, Suspense, useEffect } from "react";
import { useLocation } from "react-router";
import { finding, helping } from "./tools";

const Help = lazy(async () => ({ default: (await import("../features/help/Help")).Help }));
const Palette = lazy(async () => ({
  default: (await import("../features/find/Palette")).Palette,
}));

const TYPED_INTO = "input, select, textarea, [contenteditable]";

/** What can be opened over any page, by its keys too: Ctrl K and / find, ? helps. */
export function Tools() {
  const help = helping.use();
  const find = finding.use();
  const { pathname } = useLocation();
  // Back leads away from the page, and from what lies over it.
  // biome-ignore lint/correctness/useExhaustiveDependencies: on each page anew
  useEffect(() => {
    helping.set(null);
    finding.set(false);
  }, [pathname]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.defaultPrevented) return;
      const plain = !event.ctrlKey && !event.metaKey && !event.altKey;
      const typing = event.target instanceof Element && event.target.matches(TYPED_INTO);
      const open = document.querySelector("[role=dialog]") !== null;
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "k") {
        event.preventDefault();
        if (!open) finding.set(true);
      } else if (event.key === "/" && plain && !typing && !open) {
        event.preventDefault();
        finding.set(true);
      } else if (event.key === "?" && plain && !typing && !open) {
        event.preventDefault();
        helping.set("");
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  return (
    <Suspense>
      {help !== null && <Help />}
      {find && <Palette />}
    </Suspense>
  );
}
