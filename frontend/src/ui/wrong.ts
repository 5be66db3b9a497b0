import { Refused, sentence } from "../api/client";

/** What the server says is wrong with one field of a form, if it is that field. */
export function wrongWith(error: unknown, field: string): string | null {
  if (!(error instanceof Refused)) return null;
  const found = error.errors.find((e) => e.field === field || e.field.endsWith(`.${field}`));
  return found ? sentence(new Refused(error.status, error.detail, [found])) : null;
}

/** What is wrong with none of the fields that are shown. */
export function wrongElsewhere(error: unknown, fields: readonly string[]): string | null {
  if (!error) return null;
  return fields.some((field) => wrongWith(error, field)) ? null : sentence(error);
}
