import { useState } from "react";
import { keep, kept } from "./device";

/** What was begun under a name on this device, and is not done yet; null where nothing was. */
export function draftOf<T>(name: string): T | null {
  const text = kept(name, "session");
  try {
    return text === null ? null : (JSON.parse(text) as T);
  } catch {
    return null;
  }
}

/** Keeps what was begun, or forgets it (null). */
export function holdDraft<T>(name: string, now: T | null): void {
  keep(name, now === null ? null : JSON.stringify(now), "session");
}

/**
 * What somebody is typing, kept over Back and a reload until it is done: then it is set to null.
 *
 * @example const [line, setLine] = useDraft<string>(`spare-margin.line.${job}`);
 */
export function useDraft<T>(name: string): [T | null, (now: T | null) => void] {
  const [held, setHeld] = useState(() => ({ name, now: draftOf<T>(name) }));
  const set = (now: T | null) => {
    setHeld({ name, now });
    holdDraft(name, now);
  };
  return [held.name === name ? held.now : draftOf<T>(name), set];
}
