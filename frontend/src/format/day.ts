/*
 * Days and times as the device writes them, without seconds. Files say them in ISO 8601.
 */

/** A day; nothing for no moment. `day("2026-05-20T09:00:00Z")` is 20 May 2026 where days are written so. */
export const day = (iso: string | null | undefined): string =>
  iso ? new Date(iso).toLocaleDateString(undefined, { dateStyle: "medium" }) : "";

/** A day with the day of its week, to stand over what was done on it. */
export const weekday = (iso: string): string =>
  new Date(iso).toLocaleDateString(undefined, { dateStyle: "full" });

/** A time of a day. */
export const clock = (iso: string): string =>
  new Date(iso).toLocaleTimeString(undefined, { timeStyle: "short" });

/** A day and a time. */
export const when = (iso: string): string =>
  new Date(iso).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" });
