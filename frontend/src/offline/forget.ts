import { forgetKept, keep, kept } from "./device";
import { dropPictures } from "./pictures";
import { ANSWERS, PICTURES } from "./stores";

const REMOVED = "spare-margin.removed";

/** What the program answered: a device that is not paired shows nothing of the jobs. What waits to be sent stays. */
export async function forgetAnswers(): Promise<void> {
  if (!("caches" in window)) return;
  await Promise.all([caches.delete(ANSWERS), caches.delete(PICTURES)]);
}

/**
 * A device that was shown the door keeps nothing at all, and begins afresh.
 *
 * @param unsent how many entries had not been sent: they go with the rest, and that is said.
 */
export async function forgetEverything(unsent: number): Promise<void> {
  forgetKept();
  await Promise.allSettled([forgetAnswers(), dropPictures()]);
  keep(REMOVED, String(unsent), "session");
  window.location.replace("/");
}

/** How many unsent entries went with it when this device was removed; null where it was not. */
export function unsentWhenRemoved(): number | null {
  const said = kept(REMOVED, "session");
  return said === null ? null : Number(said);
}
