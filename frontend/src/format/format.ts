/** Figures as the server made them: it computes and decides their digits; here one is picked to be shown. */

import type { Schema } from "../api/client";

/** A quantity: `si` for pictures and comparisons, the rest as it is to be read. */
export type Figure = Schema["Figure"];
type Maybe = Figure | null | undefined;

interface Spoken {
  comma: "no" | "yes";
  length: "m" | "ft";
  volts: "V" | "mV";
  back_word: string;
}
let spoken: Spoken = { comma: "no", length: "m", volts: "V", back_word: "return" };

/** Use these units and words from now on. */
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

/** A number that is no quantity of the server's, a size on a button, with the decimal mark in use. */
export const marked = (number: string | number) =>
  spoken.comma === "yes" ? String(number).replace(".", ",") : String(number);

/** A figure under a head that names its unit; it brings its own where that is another. */
export function bare(figure: Maybe, unit = figure?.unit): string {
  if (!figure) return "";
  return figure.unit === unit ? figure.text : `${figure.text} ${figure.unit}`;
}

/** Volts in a table's column. */
export const volts = (figure: Maybe) => bare(figure, spoken.volts);
/** A figure with its unit: `0.140 V`; a dash where there is none. */
export const whole = (figure: Maybe) => (figure ? `${figure.text} ${figure.unit}` : "–");
/** A figure for a headline, without its unit. */
export const brief = (figure: Maybe) => figure?.brief ?? "–";
/** More or less by so much, with its sign: `+0.021 V`. */
export const more = (figure: Maybe) =>
  figure && figure.si > 0 && /[1-9]/.test(figure.text) ? `+${whole(figure)}` : whole(figure);
