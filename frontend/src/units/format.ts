/** Numbers for the screen. The server computes; here they only get their digits. */

const MINUS = "−";

/** Volts: thousandths below 2 V, hundredths above, a real minus sign. */
export function volts(value: number | null | undefined): string {
  if (value === null || value === undefined) return "";
  return fixed(value, Math.abs(value) < 2 ? 3 : 2);
}

/** Volts for a headline: hundredths always. */
export function shortVolts(value: number | null | undefined): string {
  return value === null || value === undefined ? "–" : fixed(value, 2);
}

/** Amperes to three digits. */
export function amperes(value: number | null | undefined): string {
  if (value === null || value === undefined) return "";
  const size = Math.abs(value);
  return fixed(value, size >= 100 ? 0 : size >= 10 ? 1 : 2);
}

/** Metres: tenths below ten. */
export function metres(value: number | null | undefined): string {
  if (value === null || value === undefined) return "";
  return fixed(value, Math.abs(value) < 10 ? 1 : 0);
}

/** Milliohms to three digits. */
export function milliohms(value: number | null | undefined): string {
  if (value === null || value === undefined) return "";
  const m = value * 1000;
  return fixed(m, m >= 100 ? 0 : m >= 10 ? 1 : 2);
}

function fixed(value: number, places: number): string {
  const text = value.toFixed(places);
  if (Number(text) === 0) return text.replace("-", "");
  return text.replace("-", MINUS);
}
