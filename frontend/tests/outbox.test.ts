import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { page, type Store } from "./page";

const KEY = "spare-margin.waiting";
let store: Store;
/** What the program answers to one post after another: a status with a body, or nothing at all. */
let answers: (null | [number, unknown])[];
let posted: { path: string; body: Record<string, unknown> }[];

beforeEach(() => {
  vi.resetModules();
  vi.useFakeTimers({ now: Date.parse("2026-05-01T09:00:00Z") });
  store = page().local;
  answers = [];
  posted = [];
  vi.stubGlobal("fetch", async (path: string, asked: { body: string }) => {
    const answer = answers.shift();
    if (!answer) throw new TypeError("network");
    posted.push({ path: path.replace("/api/v1/jobs/", ""), body: JSON.parse(asked.body) });
    return new Response(JSON.stringify(answer[1]), { status: answer[0] });
  });
});

afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

const outbox = () => import("../src/api/outbox");
const reading = (id: string, job = "boat", more = {}) => ({
  job,
  path: "readings" as const,
  name: id,
  body: { id, typed: "0.14", ...more },
});
const waiting = () => JSON.parse(store.getItem(KEY) ?? "[]");
const full = [507, { detail: "The disk is full." }] as [number, unknown];

test("what the program takes is answered and kept no longer", async () => {
  const { send } = await outbox();
  answers = [[200, { id: "one" }]];
  expect(await send(reading("one"))).toEqual({ state: "kept", answer: { id: "one" } });
  expect(waiting()).toEqual([]);
});

test("without an answer it waits on the device, and goes out in the order it was typed", async () => {
  const { send, flush } = await outbox();
  expect(await send(reading("one"))).toEqual({ state: "waiting" });
  expect(await send(reading("two"))).toEqual({ state: "waiting" });
  expect(waiting().map((w: { id: string }) => w.id)).toEqual(["one", "two"]);
  vi.setSystemTime(Date.parse("2026-05-01T09:05:00Z"));
  answers = [
    [200, {}],
    [200, {}],
  ];
  await flush();
  expect(posted.map((p) => p.body.id)).toEqual(["one", "two"]);
  expect(posted[0]?.body.waited_s).toBe(300);
  expect(waiting()).toEqual([]);
});

test("a clock that was put right sends what waited as of now", async () => {
  const { send, flush } = await outbox();
  await send(reading("one"));
  vi.setSystemTime(Date.parse("1970-01-01T00:01:00Z"));
  answers = [[200, {}]];
  await flush();
  expect(posted[0]?.body.waited_s).toBe(0);
});

test("what is refused as it was typed is said, and is not kept", async () => {
  const { send } = await outbox();
  const errors = [{ field: "typed", problem: "is no reading", accepted: "volts" }];
  answers = [[422, { detail: "wrong", errors }]];
  expect(await send(reading("one"))).toEqual({
    state: "refused",
    why: "Is no reading. Allowed: volts.",
  });
  expect(waiting()).toEqual([]);
});

test("what is refused later stays in sight, and what was typed over it takes its place", async () => {
  const { send, flush, sendAgain } = await outbox();
  await send(reading("one", "boat", { supersedes: "zero" }));
  await send(reading("two", "boat", { supersedes: "one" }));
  answers = [
    [409, { detail: "The wiring moved on." }],
    [200, {}],
  ];
  await flush();
  expect(posted[1]?.body.supersedes).toBe("zero");
  expect(waiting()).toMatchObject([{ id: "one", refused: "The wiring moved on." }]);
  answers = [[200, {}]];
  await sendAgain("one", { now: true });
  expect(posted[2]?.body.revision).toBeNull();
  expect(waiting()).toEqual([]);
});

test("a job that cannot be worked on holds up its own entries alone", async () => {
  const { send, flush } = await outbox();
  for (const [id, job] of [
    ["one", "boat"],
    ["two", "van"],
    ["three", "boat"],
  ] as const) {
    await send(reading(id, job));
  }
  answers = [full, [200, {}]];
  await flush();
  expect(posted.map((p) => p.body.id)).toEqual(["one", "two"]);
  expect(waiting().map((w: { id: string }) => w.id)).toEqual(["one", "three"]);
  const { hindrance } = await import("../src/api/reach");
  expect(hindrance.get()).toBe("The disk is full.");
});

test("whoever is not paired keeps everything", async () => {
  const { send } = await outbox();
  answers = [[401, { detail: "This device is not paired." }]];
  expect(await send(reading("one"))).toEqual({ state: "waiting" });
  const { paired } = await import("../src/api/reach");
  expect(paired.get()).toBe(false);
});

test("what was kept before the page was closed is sent when it is opened again", async () => {
  store.setItem(KEY, JSON.stringify([{ ...reading("old"), id: "old", typedAt: 0, refused: "" }]));
  answers = [[200, {}]];
  const { flush } = await outbox();
  await flush();
  expect(posted[0]?.body.id).toBe("old");
  expect(waiting()).toEqual([]);
});

test("nonsense in the store is nothing that waits", async () => {
  store.setItem(KEY, "{not json");
  const { flush } = await outbox();
  await flush();
  expect(posted).toEqual([]);
});

test("a photograph whose picture is gone from the device is refused, and says so", async () => {
  const { send } = await outbox();
  const body = { id: "one", subject: "job" as const, about: "" };
  const outcome = await send({ job: "boat", path: "photographs", name: "Photograph", body });
  expect(outcome).toEqual({ state: "refused", why: expect.stringContaining("Take it again") });
  expect(posted).toEqual([]);
});
