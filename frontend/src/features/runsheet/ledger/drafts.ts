import { keep, kept } from "../../../offline/device";

/** What was typed but not yet kept, so that nothing is lost with the server away or on reload. */
const PREFIX = "spare-margin.draft.";

export function draftKey(job: string, scenario: string, place: string): string {
  return `${PREFIX}${job}.${scenario}.${place}`;
}

export function heldDraft(key: string): string | null {
  return kept(key, "session");
}

export function holdDraft(key: string, text: string | null): void {
  keep(key, text, "session");
}
