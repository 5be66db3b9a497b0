import { useSyncExternalStore } from "react";

let paired = true;
const watchers = new Set<() => void>();

/** The server said whether it knows this device. */
export function setPaired(now: boolean): void {
  if (now === paired) return;
  paired = now;
  for (const tell of watchers) tell();
}

/** Whether the server knows this device, as far as it has said. */
export function usePaired(): boolean {
  return useSyncExternalStore(
    (tell) => {
      watchers.add(tell);
      return () => watchers.delete(tell);
    },
    () => paired,
  );
}
