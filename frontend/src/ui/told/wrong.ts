import { Refused, sentence } from "../../api/client";

/** What the server says is wrong with one field of a form, if it is that field. */
export function wrongWith(error: unknown, field: string): string | null {
  if (!(error instanceof Refused)) return null;
  const found = error.errors.find((e) => e.field === field || e.field.endsWith(`.${field}`));
  return found ? sentence(new Refused(error.status, error.detail, [found])) : null;
}
