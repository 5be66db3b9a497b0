import type { Sheet } from "../../api/client";

/** The address of the walk of the run on screen. */
export function walkOf(sheet: Sheet): string {
  const words = new URLSearchParams({ run: sheet.run.load.id, scenario: sheet.scenario });
  if (sheet.stage !== "planned") words.set("stage", sheet.stage);
  return `/jobs/${sheet.job}/walk?${words}`;
}
