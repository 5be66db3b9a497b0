import { marked } from "../../format/format";
import type { Shown } from "./live";

const UNITS = { volts: "V", amperes: "A", ohms: "Ω" } as const;

/** How many digits behind the point a meter shows. */
const places = (step: number) =>
  step > 0 ? Math.max(0, Math.min(6, Math.ceil(-Math.log10(step) - 1e-6))) : 3;

/** What a meter shows, as its own display has it; a dash where it shows nothing. */
export function shownText(shown: Shown | undefined): string {
  if (!shown || shown.value === null) return "–";
  const text = marked(shown.value.toFixed(places(shown.step))).replace("-", "−");
  return `${text} ${UNITS[shown.quantity]}`;
}
