import { useSyncExternalStore } from "react";
import { call, Refused, type Schema, sentence, Unreachable } from "./client";

/** A reading or a note that was typed, until the server has it. */
export interface Waiting {
  id: string;
  job: string;
  path: "readings" | "walk/notes";
  body: Record<string, unknown>;
  typedAt: number;
  /** What a person calls it: `0.31 at Ring at bus`. */
  name: string;
  /** Why the server would not take it; empty while it only waits. */
  refused: string;
}

const KEY = "spare-margin.waiting";
const EVERY_MS = 2000;
let held: Waiting[] = load();
let sending: Promise<void> | null = null;
let timer: ReturnType<typeof setTimeout> | undefined;
const watchers = new Set<() => void>();
const settled = new Set<(job: string) => void>();

function load(): Waiting[] {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? "[]");
    return Array.isArray(kept) ? kept : [];
  } catch {
    return [];
  }
}

function keep(next: Waiting[]): void {
  held = next;
  if (next.length) localStorage.setItem(KEY, JSON.stringify(next));
  else localStorage.removeItem(KEY);
  for (const tell of watchers) tell();
}

/**
 * Keep something on this device and send it as soon as the server answers. Each has an id made here, so
 * that sending it twice keeps it once.
 *
 * @example const outcome = await send({ job, path: "readings", body, name: "0.31 at Ring" });
 *          if (outcome === "waiting") say("It waits on this device.");
 */
export async function send(
  what: Pick<Waiting, "job" | "path" | "body" | "name">,
): Promise<"kept" | "waiting" | { refused: string }> {
  const id = String(what.body.id);
  keep([...held, { ...what, id, typedAt: Date.now(), refused: "" }]);
  await flush();
  const left = held.find((w) => w.id === id);
  if (!left) return "kept";
  if (!left.refused) return "waiting";
  drop(id);
  return { refused: left.refused };
}

/** Let something go that the server would not take. */
export function drop(id: string): void {
  keep(held.filter((w) => w.id !== id));
}

/** Be told whenever something that waited was kept: `onKept((job) => refresh(job))`. */
export function onKept(tell: (job: string) => void): () => void {
  settled.add(tell);
  return () => settled.delete(tell);
}

/** Send what waits, in the order it was typed; stops where the server does not answer. */
export function flush(): Promise<void> {
  sending ??= sendAll().finally(() => {
    sending = null;
    clearTimeout(timer);
    if (held.some((w) => !w.refused)) timer = setTimeout(flush, EVERY_MS);
  });
  return sending;
}

async function sendAll(): Promise<void> {
  for (let next = first(); next; next = first()) {
    const { id, job, path, body, typedAt } = next;
    const waited = (Date.now() - typedAt) / 1000;
    try {
      const more = path === "readings" ? { waited_s: Math.max(0, waited) } : {};
      await call<Schema["KeptReading"]>(`/jobs/${job}/${path}`, { ...body, ...more });
      drop(id);
      for (const tell of settled) tell(job);
    } catch (error) {
      if (error instanceof Unreachable || !(error instanceof Refused) || error.status >= 500)
        return;
      keep(held.map((w) => (w.id === id ? { ...w, refused: sentence(error) } : w)));
    }
  }
}

const first = () => held.find((w) => !w.refused);

/** Everything of a job that is not with the server yet. */
export function useWaiting(job: string): Waiting[] {
  const all = useSyncExternalStore(
    (tell) => {
      watchers.add(tell);
      return () => watchers.delete(tell);
    },
    () => held,
  );
  return all.filter((w) => w.job === job);
}

window.addEventListener("online", () => void flush());
window.addEventListener("storage", (event) => {
  if (event.key !== KEY) return;
  held = load();
  for (const tell of watchers) tell();
});
void flush();
