/** A day as the reader's own calendar writes it; nothing for no moment. `day("2026-05-20T09:00:00Z")` */
export const day = (iso: string | null | undefined): string =>
  iso ? new Date(iso).toLocaleDateString(undefined, { dateStyle: "medium" }) : "";

/** A day and a time as the device writes them, without seconds. */
export const when = (iso: string) =>
  new Date(iso).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" });
