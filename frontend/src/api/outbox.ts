import { useSyncExternalStore } from "react";
import { type Body, call, Refused, sentence } from "./client";
import { hindrance } from "./reach";

type Path = "readings" | "walk/notes" | "walk/trials" | "walk/stand-in" | "sign";

/** What can wait: where it goes, and what is said there. */
type Sent = {
  [T in Path]: { job: string; path: T; body: Body<T> & { id: string }; name: string };
}[Path];

/** A reading, a note or a signature that was given, until the server has it. */
export type Waiting = Sent & {
  id: string;
  typedAt: number;
  /** Why the server would not take it; empty while it only waits. */
  refused: string;
};

const KEY = "spare-margin.waiting";
const EVERY_MS = 2000;
/** Not paired any more, or too many at once: what waits goes out later. */
const HELD_UP = [401, 429];
let held: Waiting[] = load();
let sending: Promise<void> | null = null;
let timer: ReturnType<typeof setTimeout> | undefined;
const watchers = new Set<() => void>();
const settled = new Set<(job: string) => void>();
/** Who waits for the answer to what was just typed, by its id. */
const asking = new Map<string, (answer: unknown) => void>();

/** What became of something sent: kept with the server's answer, waiting here, or refused. */
export type Outcome<T> =
  | { state: "kept"; answer: T }
  | { state: "waiting" }
  | { state: "refused"; why: string };

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
  try {
    if (next.length) localStorage.setItem(KEY, JSON.stringify(next));
    else localStorage.removeItem(KEY);
  } catch {
    // The device's store is full or forbidden: it waits in this page alone.
  }
  for (const tell of watchers) tell();
}

/**
 * Keep something on this device and send it as soon as the server answers. Each has an id made here, so
 * that sending it twice keeps it once.
 *
 * @example const outcome = await send<Kept>({ job, path: "readings", body, name: "0.31 at Ring" });
 *          if (outcome.state === "waiting") say("It waits on this device.");
 */
export async function send<T>(what: Sent): Promise<Outcome<T>> {
  const { id } = what.body;
  let kept: { answer: T } | null = null;
  asking.set(id, (answer) => {
    kept = { answer: answer as T };
  });
  keep([...held, { ...what, id, typedAt: Date.now(), refused: "" }]);
  await flush();
  asking.delete(id);
  if (kept) return { state: "kept", ...(kept as { answer: T }) };
  const why = held.find((w) => w.id === id)?.refused;
  if (!why) return { state: "waiting" };
  drop(id);
  return { state: "refused", why };
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
      const answer = await call<unknown>(`/jobs/${job}/${path}`, { ...body, ...more });
      hindrance.set("");
      drop(id);
      const asked = asking.get(id);
      if (asked) asked(answer);
      else for (const tell of settled) tell(job);
    } catch (error) {
      if (!(error instanceof Refused)) return hindrance.set("");
      if (error.status >= 500 || HELD_UP.includes(error.status)) return hindrance.set(error.detail);
      refuse(next, sentence(error));
    }
  }
}

/** Mark what was refused; what was typed over it since stands for what that one stood for. */
function refuse(wrong: Waiting, why: string): void {
  const supersedes = (wrong.path === "readings" && wrong.body.supersedes) || null;
  keep(
    held.map((w) => {
      if (w.id === wrong.id) return { ...w, refused: why };
      if (w.path !== "readings" || w.body.supersedes !== wrong.id) return w;
      return { ...w, body: { ...w.body, supersedes } };
    }),
  );
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
