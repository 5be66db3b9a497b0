import type { QueryClient } from "@tanstack/react-query";

/**
 * Every query's key, in one place. Whatever shows a job stands under `job`, so that one rule forgets it all.
 *
 * @example useQuery({ queryKey: keys.craft(job, view), queryFn: … });
 */
export const keys = {
  access: ["access"] as const,
  network: ["access", "network"] as const,
  copies: ["copies"] as const,
  jobs: ["jobs"] as const,
  found: (asked: string) => ["jobs", asked] as const,
  foundByWords: (words: string) => ["jobs", "by words", words] as const,
  logs: (job: string) => ["job", job, "logs"] as const,
  log: (job: string, log: string) => ["job", job, "logs", log] as const,
  logWindow: (job: string, log: string, window: string) =>
    ["job", job, "logs", log, window] as const,
  recordings: (job: string) => ["job", job, "recordings"] as const,
  photographs: (job: string) => ["job", job, "photographs"] as const,
  timeline: (job: string) => ["job", job, "timeline"] as const,
  meters: ["meters"] as const,
  practice: ["practice"] as const,
  bay: (attempt: string) => ["practice", "bay", attempt] as const,
  ahead: (attempt: string) => ["practice ahead", attempt] as const,
  debrief: (attempt: string) => ["practice debrief", attempt] as const,
  lesson: (lesson: string, pull: number | null) => ["practice lesson", lesson, pull] as const,
  progress: ["practice", "progress"] as const,
  exerciseSet: (set: string) => ["practice", "set", set] as const,
  settings: ["settings"] as const,
  templates: ["templates"] as const,
  tables: ["tables"] as const,
  learned: ["learned"] as const,
  choices: ["choices"] as const,
  typicalRuns: ["typical-runs"] as const,
  pulse: (job: string) => ["pulse", job] as const,
  job: (job: string) => ["job", job] as const,
  sheet: (job: string, view: object) => ["job", job, "sheet", view] as const,
  lists: (job: string, asked: string) => ["job", job, "lists", asked] as const,
  runTable: (job: string, stage: string) => ["job", job, "run table", stage] as const,
  craft: (job: string, view: object) => ["job", job, "craft", view] as const,
  upgrade: (job: string, view: object) => ["job", job, "upgrade", view] as const,
  sizing: (job: string) => ["job", job, "sizing"] as const,
  runByRun: (job: string) => ["job", job, "run by run"] as const,
  order: (job: string, run: string | null) => ["job", job, "order", run] as const,
  proof: (job: string, run: string | null) => ["job", job, "proof", run] as const,
  walk: (job: string, view: object) => ["job", job, "walk", view] as const,
  card: (job: string, asked: string) => ["job", job, "walk", "card", asked] as const,
  standIn: (job: string, asked: string) => ["job", job, "walk", "stand-in", asked] as const,
  atRest: (job: string, asked: string) => ["job", job, "walk", "at rest", asked] as const,
  means: (job: string, asked: string) => ["job", job, "walk", "means", asked] as const,
  sourceCheck: (job: string, source: string) => ["job", job, "source-check", source] as const,
  limitComparison: (job: string, asked: string) => ["job", job, "limits", asked] as const,
  worst: (job: string, asked: string) => ["job", job, "worst", asked] as const,
  protection: (job: string, asked: string) => ["job", job, "protection", asked] as const,
  whatIf: (job: string, asked: string) => ["job", job, "what-if", asked] as const,
};

/** The list of jobs is out of date: what is on its way was asked before, and must not be shown. */
export async function jobsChanged(queries: QueryClient) {
  await queries.cancelQueries({ queryKey: keys.jobs });
  await queries.invalidateQueries({ queryKey: keys.jobs });
}

/**
 * A job changed: whatever shows it is asked for afresh, the list of jobs too. What is on its way was asked before: a
 * page that is only just opening would else show it, and never hear of what was sent meanwhile.
 */
export async function jobChanged(queries: QueryClient, job: string): Promise<void> {
  jobsChanged(queries);
  await queries.cancelQueries({ queryKey: keys.job(job) });
  await queries.invalidateQueries({ queryKey: keys.job(job) });
}

/** The scope of what changes a job: one after the other, so that an undo never overtakes what it is to undo. */
export const changes = (job: string) => ({ id: job });
