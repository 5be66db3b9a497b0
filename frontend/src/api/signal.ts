import { useSyncExternalStore } from "react";

export interface Signal<T> {
  get(): T;
  set(now: T): void;
  /** The value, in a component that is drawn again when it changes. */
  use(): T;
}

/**
 * A value that the whole page shares, outside of any component.
 *
 * @example const paired = signal(true); paired.set(false); const now = paired.use();
 */
export function signal<T>(first: T, changed?: (now: T) => void): Signal<T> {
  let held = first;
  const watchers = new Set<() => void>();
  const watch = (tell: () => void) => {
    watchers.add(tell);
    return () => watchers.delete(tell);
  };
  const get = () => held;
  return {
    get,
    set(now) {
      if (now === held) return;
      held = now;
      changed?.(now);
      for (const tell of watchers) tell();
    },
    use: () => useSyncExternalStore(watch, get),
  };
}
