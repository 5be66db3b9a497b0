import type { Verdict } from "../../api/client";

const WORDS: Record<Verdict, string> = {
  within: "within limits",
  within_as_ran: "within as it ran",
  over: "over limit",
  over_as_ran: "over as it ran",
  open: "open",
  contradiction: "can't all be true",
  too_close: "too close to call",
  high: "above allowance",
  not_loaded: "no current",
  not_measured: "not measured",
};
const SIGNS: Record<Verdict, string> = {
  within: "✓",
  within_as_ran: "◐",
  over: "▲",
  over_as_ran: "▲",
  open: "⊣",
  contradiction: "≠",
  too_close: "≈",
  high: "△",
  not_loaded: "○",
  not_measured: "·",
};
export const INK: Record<Verdict, string> = {
  within: "text-slate",
  within_as_ran: "text-slate",
  over: "text-over",
  over_as_ran: "text-over",
  open: "text-over",
  contradiction: "text-over",
  too_close: "text-ochre",
  high: "text-ochre",
  not_loaded: "text-soft",
  not_measured: "text-soft",
};
export const FILL: Record<Verdict, string> = {
  within: "",
  within_as_ran: "",
  over: "hatch-over",
  over_as_ran: "hatch-over",
  open: "hatch-over",
  contradiction: "dots-close",
  too_close: "dots-close",
  high: "",
  not_loaded: "",
  not_measured: "",
};

/** A verdict's sign alone, named for those who do not see it. */
export function Sign({ verdict }: { verdict: Verdict }) {
  return (
    <span role="img" aria-label={WORDS[verdict]} className={`num ${INK[verdict]}`}>
      {SIGNS[verdict]}
    </span>
  );
}

/** Sign and word. */
export function VerdictWord({ verdict, className = "" }: { verdict: Verdict; className?: string }) {
  return (
    <span className={`font-bold ${INK[verdict]} ${className}`}>
      <span aria-hidden className="num mr-1">
        {SIGNS[verdict]}
      </span>
      {WORDS[verdict]}
    </span>
  );
}
