import { type RefObject, useEffect } from "react";

export type What = "elsewhere" | "bench" | "at_rest";

/** What an ended walk leads on to, on this page; a new value each time that it is asked for. */
export interface LeadsOn {
  what: What;
}

/** Opens a part of the page, and brings it into sight, when the walk leads on to it. */
export function useOpened(
  part: RefObject<HTMLDetailsElement | null>,
  opened: LeadsOn | null,
  mine: What[],
) {
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked for anew is a new value
  useEffect(() => {
    if (!opened || !mine.includes(opened.what) || !part.current) return;
    part.current.open = true;
    part.current.scrollIntoView({ block: "start" });
    part.current.querySelector("summary")?.focus({ preventScroll: true });
  }, [opened]);
}
