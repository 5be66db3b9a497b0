import { KEPT } from "../offline/stores";
import { fromHere, outdated, paired, removed } from "./reach";
import type { components } from "./schema.generated";
import { whoReads } from "./who";

export type Schema = components["schemas"];
export type Sheet = Schema["Sheet"];
export type Column = Schema["Column"];
export type Cell = Schema["Cell"];
export type Side = Schema["SideOut"];
export type PassOut = Schema["PassOut"];
export type Verdict = Cell["verdict"];
export type Stage = Sheet["stage"];
export type Edit = Partial<Schema["Edit"]>;
/** What is posted under a job, by its address there. */
export interface Posted {
  lines: Schema["DrawLine"];
  columns: Schema["MoveColumn"];
  runs: Schema["WholeRun"];
  scenarios: Schema["ScenarioChange"];
  sources: Schema["NewSource"];
  readings: Omit<Schema["NewReading"], "view"> & { view: Partial<Schema["SheetQuery"]> | null };
  "walk/notes": Schema["Noted"];
  "walk/trials": Schema["TrialForm"];
  "walk/stand-in": Schema["StandInForm"];
  sign: Schema["Sign"];
  /** What is said of a photograph in the address; its picture is the body. */
  photographs: Pick<Schema["Photograph"], "id" | "subject" | "about" | "stage" | "note" | "who">;
}
/** A body as it is given; what is left out is as the server has it. */
export type Body<T extends keyof Posted> = Partial<Posted[T]>;
export type WrongField = Schema["WrongField"];

/** Which build of the pages this is, as the program that served it said. */
const BUILD = document.querySelector<HTMLMetaElement>("meta[name=build]")?.content ?? "";

/** What the server refused, in its words; `errors` names each field. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly detail: string,
    readonly errors: WrongField[],
  ) {
    super(detail);
  }
}

/** The server did not answer at all: nothing was kept, nothing is lost. */
export class Unreachable extends Error {}

const isRaw = (body: unknown): body is string | Blob =>
  typeof body === "string" || body instanceof Blob;
const kindOf = (body: unknown) =>
  body instanceof Blob ? body.type || "application/octet-stream" : "application/json";

/**
 * Ask the API; a text or a file goes out as it is. Throws `Refused` for an answer that is an error, `Unreachable` for none.
 *
 * @example const shelf = await call<Schema["JobList"]>("/jobs");
 */
export async function call<T>(
  path: string,
  body?: unknown,
  method = body === undefined ? "GET" : "POST",
): Promise<T> {
  let answer: Response;
  try {
    answer = await fetch(`/api/v1${path}`, {
      method,
      headers: {
        ...(body === undefined ? {} : { "Content-Type": kindOf(body) }),
        ...(whoReads() ? { "X-Who": encodeURIComponent(whoReads()) } : {}),
      },
      body: body === undefined || isRaw(body) ? body : JSON.stringify(body),
    });
  } catch {
    throw new Unreachable("The program does not answer. What you typed is still here.");
  }
  const document = await answer.json().catch(() => null);
  if (answer.status === 401) paired.set(false);
  if (answer.headers.has("X-Removed")) removed.set(true);
  fromHere.set(answer.headers.has(KEPT));
  const build = answer.headers.get("X-Build");
  if (BUILD && build && build !== BUILD && !answer.headers.has(KEPT)) outdated.set(build);
  if (!answer.ok) {
    throw new Refused(
      answer.status,
      document?.detail ?? `The program answered ${answer.status}.`,
      document?.errors ?? [],
    );
  }
  return document as T;
}

/** An error as one sentence for a person. */
export function sentence(error: unknown): string {
  if (error instanceof Refused) {
    const first = error.errors[0];
    if (!first) return error.detail;
    const accepted = first.accepted ? ` Allowed: ${first.accepted}.` : "";
    return `${first.problem[0]?.toUpperCase() ?? ""}${first.problem.slice(1)}.${accepted}`;
  }
  return error instanceof Error ? error.message : "Something went wrong.";
}
