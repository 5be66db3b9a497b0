import type { Schema } from "../../../api/client";
import type { Card } from "../api";

interface Props {
  card: Card;
  means: Schema["Means"] | undefined;
}

/** Where a reading lands as it is typed: what is good of the scale, what is likely, and the reading. */
export function Landing({ card, means }: Props) {
  const { bar } = card;
  const value = means?.value ?? null;
  const place = (v: number) =>
    bar ? Math.min(Math.max((v - bar.least) / (bar.most - bar.least), 0), 1) * 100 : 0;
  const shown = value === null ? null : card.kind === "source" ? value : Math.abs(value);
  return (
    <div className="mt-2">
      {bar && (
        <div className="relative h-5 rounded border border-rule bg-canvas" aria-hidden>
          <div
            className="absolute inset-y-0 border-x border-slate bg-tint"
            style={{
              left: `${place(bar.good_from)}%`,
              width: `${place(bar.good_to) - place(bar.good_from)}%`,
            }}
          />
          {bar.likely !== null && (
            <div
              className="absolute inset-y-0 border-l-2 border-dashed border-slate"
              style={{ left: `${place(bar.likely)}%` }}
            />
          )}
          {shown !== null && (
            <div
              className={`absolute -inset-y-1 w-1.5 -translate-x-1/2 rounded ${means?.good === false ? "bg-over" : "bg-copper"}`}
              style={{ left: `${place(shown)}%` }}
            />
          )}
        </div>
      )}
      <p
        className={`min-h-5 text-[14px] leading-5 ${means?.good === false ? "font-bold text-over" : means?.good ? "text-slate" : "text-soft"}`}
        data-testid="means"
        aria-live="polite"
      >
        {means?.says || card.expect_says}
      </p>
    </div>
  );
}
