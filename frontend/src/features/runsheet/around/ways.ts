import type { Sheet } from "../../../api/client";
import { walkOf } from "../walkOf";

/** What can be gone to from a run: where it is, what it is called. */
export function waysOf(sheet: Sheet): [to: string, name: string][] {
  const job = `/jobs/${sheet.job}`;
  const run = `run=${encodeURIComponent(sheet.run.load.id)}`;
  const planned = sheet.stages.some((s) => s.stage === "planned");
  return [
    [`${job}/craft?stage=${sheet.stage}`, "The craft, new runs"],
    [`${job}/source?source=${encodeURIComponent(sheet.run.source.id)}`, "Source check"],
    [walkOf(sheet), "Walk this run"],
    [`${job}/upgrade?${run}`, "Repairs and upgrades"],
    ...(planned ? ([[`${job}/order?${run}`, "Work order"]] as [string, string][]) : []),
    [`${job}/proof?${run}`, "Proof"],
    [`${job}/logs`, "Meter logs"],
    [`${job}/photographs`, "Photographs"],
  ];
}
