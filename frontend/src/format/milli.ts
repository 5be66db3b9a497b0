/** Whether a text is figures alone, without a unit of its own. `isBare("140")`, not `isBare("140 mV")` */
export const isBare = (typed: string) => /\d/.test(typed) && !/[a-zµ°Ω]/i.test(typed);

/** How large a bare figure is, without its sign; NaN where it is none. */
const size = (typed: string) =>
  isBare(typed) ? Math.abs(Number(typed.replace(",", ".").replace("\u2212", "-"))) : Number.NaN;

/** Whether a bare figure is more volts than there can be: then it was read in thousandths. */
export const mustBeMilli = (typed: string, most: number | null): boolean =>
  most !== null && size(typed) > most;

/** Whether a figure typed in thousandths may have been read whole: less than one of them is next to nothing. */
export const mayBeWhole = (typed: string): boolean => size(typed) > 0 && size(typed) < 1;

/** A bare figure with its unit, where it was typed in thousandths; anything else as it is. */
export const inMilli = (typed: string, unit: string, on: boolean) =>
  on && isBare(typed) ? `${typed.trim()} m${unit}` : typed;

/** What was typed, with its unit. `withUnit("0.14", "V")` is 0.14 V, `withUnit("140m", "V")` 140 mV. */
export function withUnit(typed: string, unit: string): string {
  if (isBare(typed)) return `${typed} ${unit}`;
  return /[\d\s]m$/.test(typed) ? `${typed.slice(0, -1).trim()} m${unit}` : typed;
}
