import { useSyncExternalStore } from "react";
import type { Schema } from "../../api/client";

export type Shown = Schema["MeterShown"];
type All = Readonly<Record<string, Shown>>;

const AGAIN_MS = 2000;
/** A connection that is closed for good is opened again after a while; one that broke the browser tries itself. */
let timer: ReturnType<typeof setTimeout> | undefined;
let source: EventSource | null = null;
let all: All = {};
const watchers = new Set<() => void>();

function put(next: All): void {
  all = next;
  for (const tell of watchers) tell();
}

function open(): void {
  clearTimeout(timer);
  if (source || document.hidden || watchers.size === 0) return;
  source = new EventSource("/api/v1/meters/stream");
  source.onmessage = (event) => {
    const shown = JSON.parse(event.data) as Shown;
    put({ ...all, [shown.meter]: shown });
  };
  source.onerror = () => {
    // What was shown last is not what is shown now.
    put({});
    if (source?.readyState === EventSource.CLOSED) {
      source = null;
      timer = setTimeout(open, AGAIN_MS);
    }
  };
}

function close(): void {
  clearTimeout(timer);
  source?.close();
  source = null;
}

// A page that nobody looks at listens to nothing: browsers hold few lines open at once.
document.addEventListener("visibilitychange", () => {
  if (document.hidden) {
    close();
    put({});
  } else open();
});

function watch(tell: () => void): () => void {
  watchers.add(tell);
  open();
  return () => {
    watchers.delete(tell);
    if (watchers.size === 0) close();
  };
}

/** What each meter shows now, by its id, as it comes; one line for the whole page, closed while it is hidden. */
export const useLive = (): All => useSyncExternalStore(watch, () => all);
