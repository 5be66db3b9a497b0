/** Whether a text is figures alone, without a unit of its own. `isBare("140")`, not `isBare("140 mV")` */
export const isBare = (typed: string) => /\d/.test(typed) && !/[a-zµ°Ω]/i.test(typed);

/** Whether a bare figure is more volts than there can be: then it was read in thousandths. */
export function mustBeMilli(typed: string, most: number | null): boolean {
  if (most === null || !isBare(typed)) return false;
  return Math.abs(Number(typed.replace(",", ".").replace("\u2212", "-"))) > most;
}

/** A bare figure with its unit, where it was typed in thousandths; anything else as it is. */
export const inMilli = (typed: string, unit: string, on: boolean) =>
  on && isBare(typed) ? `${typed.trim()} m${unit}` : typed;

/** What was typed, with its unit. `withUnit("0.14", "V")` is 0.14 V, `withUnit("140m", "V")` 140 mV. */
export function withUnit(typed: string, unit: string): string {
  if (isBare(typed)) return `${typed} ${unit}`;
  return /[\d\s]m$/.test(typed) ? `${typed.slice(0, -1).trim()} m${unit}` : typed;
}
