import { useState } from "react";
import { Button } from "../../ui/Button";
import { Why } from "../../ui/Why";
import type { Card, Walk } from "./api";
import { BigEntry } from "./BigEntry";
import { useWalkActs } from "./useWalkActs";

/** One measurement: where each lead goes and how, what must be on, what to expect; and its entry. */
export function StepCard({ walk, card }: { walk: Walk; card: Card }) {
  const { take, note } = useWalkActs(walk);
  const [skipping, setSkipping] = useState(false);
  const [reason, setReason] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  const amps = card.kind === "current";
  const unit = amps ? "A" : "V";
  const read = (typed: string, more: Record<string, string>) =>
    take(
      {
        quantity: amps ? "amperes" : "volts",
        red: card.red.id,
        black: card.black.id,
        typed,
        supersedes: card.cell?.reading ?? null,
        ...more,
      },
      card.title,
    );
  return (
    <section aria-label={card.title} className="rounded-lg border-2 border-ink bg-plate p-3">
      <p className="text-[13px] text-soft" data-testid="step-number">
        {walk.done.length + 1}. {card.why}
      </p>
      <h2 className="mt-0.5 text-xl leading-tight font-bold">{card.title}</h2>
      {amps ? (
        <p className="mt-2 rounded border border-rule p-2">
          Clamp round either wire of the load, zeroed first; or in series. {card.red.name} is a good
          place.
        </p>
      ) : (
        <div className="mt-2 space-y-1.5">
          <Lead colour="red" point={card.red.name} how={card.red_how} />
          <Lead colour="black" point={card.black.name} how={card.black_how} />
        </div>
      )}
      <dl className="mt-2 grid grid-cols-[auto_1fr] gap-x-3 gap-y-0.5">
        <dt className="text-soft">range</dt>
        <dd>{card.range}</dd>
        <dt className="text-soft">on</dt>
        <dd>
          {card.on}
          {card.hold_s !== null && `; at most ${card.hold_s} s at a time`}
        </dd>
        <dt className="text-soft">expect</dt>
        <dd className="num">
          <Why
            title={card.title}
            lines={card.working}
            stop
            className="-my-2.5 block py-2.5 text-left underline decoration-soft decoration-dotted underline-offset-4"
          >
            {card.expect_says}
          </Why>
        </dd>
      </dl>
      <BigEntry unit={unit} onRead={read} label={`${card.title}, ${amps ? "amperes" : "volts"}`} />
      <div className="mt-2 grid grid-cols-2 gap-2">
        <Button onClick={async () => setWrong(await note(card.id, "skipped", "cannot reach"))}>
          Cannot reach
        </Button>
        <Button aria-expanded={skipping} onClick={() => setSkipping(!skipping)}>
          Skip …
        </Button>
      </div>
      {skipping && (
        <form
          className="mt-2 flex gap-2"
          onSubmit={async (e) => {
            e.preventDefault();
            setWrong(await note(card.id, "skipped", reason));
          }}
        >
          <input
            aria-label="why it is skipped"
            placeholder="why"
            value={reason}
            onChange={(e) => setReason(e.target.value)}
            className="min-h-11 min-w-0 flex-1 rounded border border-rule bg-canvas px-2"
          />
          <Button type="submit">Skip it</Button>
        </form>
      )}
      {wrong && (
        <p role="alert" className="mt-1 text-over">
          {wrong}
        </p>
      )}
    </section>
  );
}

const LEADS = {
  red: { word: "RED", className: "border-[var(--lead-red)] text-[var(--lead-red)]" },
  black: { word: "BLACK", className: "border-[var(--lead-black)] text-[var(--lead-black)]" },
};

/** Where one lead goes: a real test lead, in its own colour and by its own name. */
function Lead({ colour, point, how }: { colour: "red" | "black"; point: string; how: string }) {
  const { word, className } = LEADS[colour];
  return (
    <div className={`border-l-8 pl-2 ${className}`}>
      <p className="text-[12px] font-bold">{word} lead on</p>
      <p className="text-[17px] leading-tight font-bold text-ink">{point}</p>
      <p className="text-[13px] text-soft">{how}</p>
    </div>
  );
}
