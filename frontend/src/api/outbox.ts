import { useSyncExternalStore } from "react";
import { keep as keepHere, kept as keptHere } from "../offline/device";
import { dropPicture, keepPicture, pictureOf } from "../offline/pictures";
import { type Body, call, Refused, sentence } from "./client";
import { hindrance } from "./reach";
import { signal } from "./signal";

type Path = "readings" | "walk/notes" | "walk/trials" | "walk/stand-in" | "sign" | "photographs";

/** What can wait: where it goes, and what is said there. */
type Sent = {
  [T in Path]: { job: string; path: T; body: Body<T> & { id: string }; name: string };
}[Path];

/** A reading, a note, a signature or a photograph that was given, until the server has it. */
export type Waiting = Sent & {
  id: string;
  typedAt: number;
  /** Why the server would not take it; empty while it only waits. */
  refused: string;
};

/** Whether this device's own store keeps what waits: else it is gone once this page is closed. */
export const stored = signal(true);

const KEY = "spare-margin.waiting";
const EVERY_MS = 2000;
/** Not paired any more, or too many at once: all that waits goes out later. */
const HELD_UP = [401, 429];
/** Nothing waits for longer (s): a clock that says so was set meanwhile, and the entry counts as of now. */
const LONGEST_S = 90 * 24 * 3600;
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
    const kept = JSON.parse(keptHere(KEY) ?? "[]");
    return Array.isArray(kept) ? kept : [];
  } catch {
    return [];
  }
}

function keep(next: Waiting[]): void {
  held = next;
  stored.set(keepHere(KEY, next.length ? JSON.stringify(next) : null));
  for (const tell of watchers) tell();
}

/**
 * Keep something on this device and send it as soon as the server answers. Each has an id made here, so
 * that sending it twice keeps it once. A photograph's picture waits beside it.
 *
 * @example const outcome = await send<Kept>({ job, path: "readings", body, name: "0.31 at Ring" });
 *          if (outcome.state === "waiting") say("It waits on this device.");
 */
export async function send<T>(what: Sent, picture?: Blob): Promise<Outcome<T>> {
  const { id } = what.body;
  const safe = picture ? await keepPicture(id, picture) : true;
  let kept: { answer: T } | null = null;
  asking.set(id, (answer) => {
    kept = { answer: answer as T };
  });
  keep([...held, { ...what, id, typedAt: Date.now(), refused: "" }]);
  if (!safe) stored.set(false);
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
  const pictured = held.some((w) => w.id === id && w.path === "photographs");
  keep(held.filter((w) => w.id !== id));
  if (pictured) void dropPicture(id);
}

/** Send again what was refused; with `now`, as of the wiring as it is now, or to another job. */
export function sendAgain(id: string, change: { now?: boolean; job?: string } = {}): Promise<void> {
  keep(
    held.map((w) => {
      if (w.id !== id) return w;
      // A photograph is of a thing, whatever the wiring.
      const anew = (change.now || change.job) && w.path !== "photographs";
      const body = anew ? { ...w.body, revision: null } : w.body;
      return { ...w, job: change.job ?? w.job, body, refused: "" } as Waiting;
    }),
  );
  return flush();
}

/** Be told whenever something that waited was kept: `onKept((job) => refresh(job))`. */
export function onKept(tell: (job: string) => void): () => void {
  settled.add(tell);
  return () => settled.delete(tell);
}

/**
 * Send what waits, in the order it was typed; stops where the server does not answer at all. What it cannot
 * work on now holds up the entries of its own job alone.
 */
export function flush(): Promise<void> {
  sending ??= sendAll().finally(() => {
    sending = null;
    clearTimeout(timer);
    if (held.some((w) => !w.refused)) timer = setTimeout(flush, EVERY_MS);
  });
  return sending;
}

async function sendAll(): Promise<void> {
  const later = new Set<string>();
  const first = () => held.find((w) => !w.refused && !later.has(w.job));
  for (let next = first(); next; next = first()) {
    const { id, job, path, body, typedAt } = next;
    const waited = (Date.now() - typedAt) / 1000;
    try {
      const believable = waited >= 0 && waited <= LONGEST_S;
      const timed = path === "readings" || path === "photographs";
      const said = { ...body, ...(timed ? { waited_s: believable ? waited : 0 } : {}) };
      const answer =
        path === "photographs"
          ? await sendPicture(job, id, said)
          : await call<unknown>(`/jobs/${job}/${path}`, said);
      if (!later.size) hindrance.set("");
      drop(id);
      const asked = asking.get(id);
      if (asked) asked(answer);
      else for (const tell of settled) tell(job);
    } catch (error) {
      if (!(error instanceof Refused)) return hindrance.set("");
      if (HELD_UP.includes(error.status)) return hindrance.set(error.detail);
      if (error.status >= 500) {
        hindrance.set(error.detail);
        later.add(job);
      } else refuse(next, sentence(error));
    }
  }
}

/** A photograph: what is said of it in the address, its picture as the body. */
async function sendPicture(job: string, id: string, said: object): Promise<unknown> {
  const picture = await pictureOf(id);
  if (!picture) {
    throw new Refused(410, "Its picture is no longer on this device. Take it again.", []);
  }
  const words = new URLSearchParams(Object.entries(said).map(([k, v]) => [k, String(v ?? "")]));
  return call(`/jobs/${job}/photographs?${words}`, picture);
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

/** How many entries are not with the server yet. */
export const countWaiting = (): number => held.length;

/** Everything that is not with the server yet, of every job. */
export function useAllWaiting(): Waiting[] {
  return useSyncExternalStore(
    (tell) => {
      watchers.add(tell);
      return () => watchers.delete(tell);
    },
    () => held,
  );
}

/** Everything of a job that is not with the server yet. */
export function useWaiting(job: string): Waiting[] {
  return useAllWaiting().filter((w) => w.job === job);
}

/** An entry as text, for whoever writes it down elsewhere. */
export function asText(entry: Waiting): string {
  const when = new Date(entry.typedAt).toISOString();
  return `${entry.name} (${entry.path}, job ${entry.job}, ${when})\n${JSON.stringify(entry.body)}`;
}

// What only this page holds is gone with it: the browser asks before it is closed.
window.addEventListener("beforeunload", (event) => {
  if (!stored.get() && held.length) event.preventDefault();
});

window.addEventListener("online", () => void flush());
window.addEventListener("storage", (event) => {
  if (event.key !== KEY) return;
  held = load();
  for (const tell of watchers) tell();
});
void flush();
