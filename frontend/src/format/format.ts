/** Numbers for the screen, in the workshop's units. The server computes; here they get their digits. */

const MINUS = "−";
const FEET = 1 / 0.3048;

interface Spoken {
  length: "m" | "ft";
  volts: "V" | "mV";
  comma: "yes" | "no";
  back_word: string;
}
let spoken: Spoken = { length: "m", volts: "V", comma: "no", back_word: "return" };

/** Use these units from now on. */
export function speak(units: Spoken): void {
  spoken = units;
}

/** What the return side is called. */
export const backWord = () => spoken.back_word;
/** A side by the word that is set for it. */
export const sideWord = (side: string) => (side === "return" ? spoken.back_word : side);
/** The unit in which lengths are shown. */
export const lengthUnit = () => spoken.length;
/** The unit of small voltages in tables. */
export const voltUnit = () => spoken.volts;

/** Volts: thousandths below 2 V, hundredths above; bare millivolts below 1 V where those are set. */
export function volts(value: number | null | undefined): string {
  if (value === null || value === undefined) return "";
  if (spoken.volts === "mV") {
    return Math.abs(value) < 1 ? fixed(value * 1000, 0) : `${fixed(value, 2)} V`;
  }
  return fixed(value, Math.abs(value) < 2 ? 3 : 2);
}

/** Volts with their unit: `0.140 V`, `140 mV`. */
export function voltsUnit(value: number | null | undefined): string {
  if (value === null || value === undefined) return "–";
  if (spoken.volts === "mV") return volts(value) + (Math.abs(value) < 1 ? " mV" : "");
  return `${volts(value)} V`;
}

/** Volts for a headline: hundredths, thousandths where those would say nothing. */
export function shortVolts(value: number | null | undefined): string {
  if (value === null || value === undefined) return "–";
  return fixed(value, Math.abs(value) < 0.01 ? 3 : 2);
}

/** More or less by so many volts, with its sign: `+0.021`. */
export function moreVolts(value: number | null | undefined): string {
  if (value === null || value === undefined) return "–";
  const text = voltsUnit(value);
  return value > 0.0005 ? `+${text}` : text;
}

/** A share as per cent. */
export function percent(value: number | null | undefined): string {
  return value === null || value === undefined ? "" : `${fixed(value * 100, 0)} %`;
}

/** Amperes to three digits. */
export function amperes(value: number | null | undefined): string {
  if (value === null || value === undefined) return "";
  const size = Math.abs(value);
  return fixed(value, size >= 100 ? 0 : size >= 10 ? 1 : 2);
}

/** A length in the workshop's unit: tenths below ten. */
export function metres(value: number | null | undefined): string {
  if (value === null || value === undefined) return "";
  const shown = spoken.length === "ft" ? value * FEET : value;
  return fixed(shown, Math.abs(shown) < 10 ? 1 : 0);
}

/** Milliohms to three digits. */
export function milliohms(value: number | null | undefined): string {
  if (value === null || value === undefined) return "";
  const m = value * 1000;
  return fixed(m, m >= 100 ? 0 : m >= 10 ? 1 : 2);
}

/** Milliohms with no more places than their doubt (ohms) leaves: `78.8`. */
export function milliohmsWithin(value: number, doubt: number | null): string {
  const least = Math.max(doubt ?? 0, Math.abs(value) * 1e-3, 1e-9) * 1000;
  return fixed(value * 1000, Math.min(Math.max(0, -Math.floor(Math.log10(least))), 3));
}

/** Ohms with their unit to three digits: `12.5 mΩ`. */
export function ohms(value: number | null | undefined): string {
  if (value === null || value === undefined) return "–";
  return value >= 1 ? `${fixed(value, 2)} Ω` : `${milliohms(value)} mΩ`;
}

/** A plain number with so many places. */
export function fixed(value: number, places: number): string {
  const text =
    spoken.comma === "yes" ? value.toFixed(places).replace(".", ",") : value.toFixed(places);
  if (Number(value.toFixed(places)) === 0) return text.replace("-", "");
  return text.replace("-", MINUS);
}
