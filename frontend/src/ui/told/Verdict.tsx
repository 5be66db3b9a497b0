import type { Verdict } from "../../api/client";

const WORDS: Record<Verdict, string> = {
  within: "within",
  over: "over",
  too_close: "too close to call",
  high: "a little high",
  not_loaded: "not loaded",
  not_measured: "not measured",
};
const SIGNS: Record<Verdict, string> = {
  within: "✓",
  over: "▲",
  too_close: "≈",
  high: "△",
  not_loaded: "○",
  not_measured: "·",
};
export const INK: Record<Verdict, string> = {
  within: "text-slate",
  over: "text-over",
  too_close: "text-ochre",
  high: "text-ochre",
  not_loaded: "text-soft",
  not_measured: "text-soft",
};
export const FILL: Record<Verdict, string> = {
  within: "",
  over: "hatch-over",
  too_close: "dots-close",
  high: "",
  not_loaded: "",
  not_measured: "",
};

export const verdictWord = (verdict: Verdict) => WORDS[verdict];

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
