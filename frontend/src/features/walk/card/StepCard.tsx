import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { keep, kept } from "../../../offline/device";
import { draftOf, holdDraft } from "../../../offline/draft";
import { Button } from "../../../ui/Button";
import { Why } from "../../../ui/Why";
import { AddPhotographs } from "../../photographs/AddPhotographs";
import { isOf, type Of, usePhotographs } from "../../photographs/api";
import { type Card, useMeans, type Walk } from "../api";
import { type Reading, useWalkActs } from "../useWalkActs";
import { WalkLoop } from "../WalkLoop";
import { BigEntry } from "./BigEntry";
import { Landing } from "./Landing";
import { useMilli } from "./milli";
import { OnCard } from "./OnCard";
import { undrawnBetween, WhatLies } from "./WhatLies";

interface Props {
  walk: Walk;
  card: Card;
  /** Two points of one's own were tapped, in the order red, black. */
  onPair?: (red: string, black: string) => void;
  /** Leaves points of one's own for what the walk asks. */
  onLeave?: () => void;
  /** A reading was taken on it. */
  onTaken?: () => void;
}

/** One measurement: where each lead goes, what must be on, what to expect; and its entry. */
export function StepCard({ walk, card, onPair, onLeave, onTaken }: Props) {
  const { take, note } = useWalkActs(walk);
  const [typed, setTyped] = useTyped(`spare-margin.typed.${walk.job}.${walk.run}.${card.id}`);
  const [skipping, setSkipping] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const amps = card.kind === "current";
  const asked = amps ? card.expect_high : (card.range_v?.si ?? null);
  const milli = useMilli(
    {
      card: card.id,
      unit: amps ? "A" : "V",
      low: asked !== null && asked < 1,
      most: card.most_v?.si ?? null,
    },
    typed,
  );
  const [meter, setStands] = useState("");
  // What stood on the meter for the card before may be of another kind.
  const stands = meter.endsWith(amps ? " A" : " V") ? meter : "";
  const means = useMeans(walk, card, typed.trim() ? milli.said(typed) : stands);
  const read = async (text: string, more: Partial<Reading>) => {
    const quantity = amps ? "amperes" : "volts";
    const at = { quantity, red: card.red.id, black: card.black.id } as const;
    const refused = await take({ ...at, typed: text, ...more }, card.title);
    if (refused === null) onTaken?.();
    return refused;
  };
  return (
    <section aria-label={card.title} className="rounded-lg border-2 border-ink bg-plate p-2.5">
      <div className="flex items-start gap-2">
        <h2 className="min-w-0 flex-1 text-lg leading-tight font-bold">
          <span className="text-soft" data-testid="step-number">
            {onLeave || card.cell ? "" : `${walk.done.length + 1}. `}
          </span>
          {card.title}
        </h2>
        {onPair && <Photographed walk={walk} card={card} />}
      </div>
      {onPair && (
        <WalkLoop
          walk={walk}
          red={amps ? "" : card.red.id}
          black={amps ? "" : card.black.id}
          onPair={onPair}
        />
      )}
      <Leads card={card} />
      <p className="mt-1.5 text-[14px] leading-snug">
        {card.on}
        {card.hold_s !== null && `; at most ${card.hold_s} s at a time`}
        <span className="text-soft">
          {" · "}
          {!amps && "range "}
          {card.range}
        </span>
      </p>
      <Landing card={card} means={typed.trim() || stands ? means.data : undefined} />
      <OnCard walk={walk} card={card} onRead={read} onStands={setStands} />
      <BigEntry
        unit={amps ? "A" : "V"}
        milli={milli}
        typed={typed}
        onType={setTyped}
        onRead={read}
        corrects={card.cell?.reading ?? undefined}
        label={`${card.title}, ${amps ? "amperes" : "volts"}`}
        beside={
          onLeave ? (
            <Button className="px-1 leading-tight" onClick={onLeave}>
              Back to the walk
            </Button>
          ) : (
            <>
              <Button
                className="px-1 leading-tight"
                onClick={async () => setWrong(await note(card.id, "skipped", "cannot reach"))}
              >
                Cannot reach
              </Button>
              <Button
                className="px-1 leading-tight"
                aria-expanded={skipping === card.id}
                onClick={() => setSkipping(skipping === card.id ? null : card.id)}
              >
                Skip …
              </Button>
            </>
          )
        }
      />
      {skipping === card.id && <Skipping key={card.id} step={card.id} note={note} />}
      {wrong && (
        <p role="alert" className="mt-1 text-over">
          {wrong}
        </p>
      )}
      <WhyAndHow walk={walk} card={card} />
    </section>
  );
}

/** Where both leads go, or the clamp. */
function Leads({ card }: { card: Card }) {
  if (card.kind === "current") {
    return (
      <p className="mt-1 rounded border border-rule p-2">
        Zero the clamp, then put it round either wire of the load. Or connect the meter in series.{" "}
        {card.red.name} is a good place.
      </p>
    );
  }
  return (
    <div className="mt-1 grid grid-cols-2 gap-2">
      <Lead colour="red" point={card.red.name} how={card.red_how} plain={isOpen(card.red)} />
      <Lead
        colour="black"
        point={card.black.name}
        how={card.black_how}
        plain={isOpen(card.black)}
      />
    </div>
  );
}

const COACH = "spare-margin.coach";

/** Why this reading, how the leads are laid, and what is expected of it; the coach's words on wish. */
function WhyAndHow({ walk, card }: { walk: Walk; card: Card }) {
  const between = undrawnBetween(walk, card.red.id, card.black.id);
  const [coached, setCoached] = useState(() => kept(COACH) === "yes");
  const coach = (on: boolean) => {
    setCoached(on);
    keep(COACH, on ? "yes" : null);
  };
  return (
    <details open={coached}>
      <summary className="min-h-11 py-3 text-[14px] text-soft">Why this reading, and how</summary>
      <p className="text-[14px]">{card.why}</p>
      {coached && (
        <p className="mt-1 border-l-4 border-slate pl-2 text-[14px]">
          {card.coach}{" "}
          <Link to={`/practise/lessons/${card.lesson}`} className="text-slate underline">
            The lesson
          </Link>
        </p>
      )}
      <label className="flex min-h-11 items-center gap-2 text-[14px]">
        <input
          type="checkbox"
          className="size-5"
          checked={coached}
          onChange={(e) => coach(e.target.checked)}
        />
        Coach me on every card
      </label>
      {card.kind !== "current" && (
        <p className="mt-1 text-[14px]">
          <b>Red:</b> {card.red_how} <b>Black:</b> {card.black_how}
        </p>
      )}
      {between && <WhatLies key={between.id} walk={walk} piece={between} />}
      {card.expect_says && (
        <p className="num mt-1 text-[14px]">
          <Why
            title={card.title}
            lines={card.working}
            stop
            className="py-2.5 text-left underline decoration-soft decoration-dotted underline-offset-4"
          >
            {card.expect_says}
          </Why>
        </p>
      )}
    </details>
  );
}

/** A photograph of what the leads are on: the piece between them, the load, else where red goes. */
function Photographed({ walk, card }: { walk: Walk; card: Card }) {
  const part = card.kind === "load" ? walk.run : card.within.length === 1 ? card.within[0] : null;
  const name = part ? card.title : card.red.name;
  const of: Of = part ? { subject: "part", about: part } : { subject: "point", about: card.red.id };
  const { all } = usePhotographs(walk.job);
  const count = all.filter((s) => isOf(s, of)).length;
  return (
    <AddPhotographs
      job={walk.job}
      of={of}
      stage={walk.stage === "as_left" ? "as_left" : "as_found"}
      name={`Photograph of ${name}`}
      label={`Add photographs of ${name}${count > 0 ? `; ${count} so far` : ""}`}
      className="-mt-1"
    >
      {count > 0 && <span className="num">{count}</span>}
    </AddPhotographs>
  );
}

const isOpen = (point: Card["red"]) => point.access === "open";

/**
 * What is typed for a card: there again after a reload. What is typed while a figure is on its way goes with the page
 * to the next card.
 */
function useTyped(name: string): [string, (text: string) => void] {
  const [typed, setTyped] = useState(() => draftOf<string>(name) ?? "");
  const was = useRef(name);
  useEffect(() => {
    if (was.current !== name) {
      holdDraft(was.current, null);
      was.current = name;
      const begun = typed ? null : draftOf<string>(name);
      if (begun) return setTyped(begun);
    }
    holdDraft(name, typed || null);
  }, [name, typed]);
  return [typed, setTyped];
}

/** Why a measurement is skipped, in words of one's own. */
function Skipping({
  step,
  note,
}: {
  step: string;
  note: (step: string, state: "skipped", reason: string) => Promise<string | null>;
}) {
  const [reason, setReason] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  return (
    <form
      className="mt-2 flex flex-wrap gap-2"
      onSubmit={async (e) => {
        e.preventDefault();
        setWrong(await note(step, "skipped", reason));
      }}
    >
      <input
        aria-label="Why it is skipped"
        placeholder="why"
        value={reason}
        onChange={(e) => setReason(e.target.value)}
        className="min-h-11 min-w-0 flex-1 rounded border border-rule bg-canvas px-2"
      />
      <Button type="submit">Skip it</Button>
      {wrong && (
        <p role="alert" className="w-full text-over">
          {wrong}
        </p>
      )}
    </form>
  );
}

const LEADS = {
  red: { word: "RED", className: "border-[var(--lead-red)] text-[var(--lead-red)]" },
  black: { word: "BLACK", className: "border-[var(--lead-black)] text-[var(--lead-black)]" },
};

/** Where one lead goes: a real test lead, in its own colour and by its own name. */
function Lead({
  colour,
  point,
  how,
  plain,
}: {
  colour: "red" | "black";
  point: string;
  how: string;
  plain: boolean;
}) {
  const { word, className } = LEADS[colour];
  return (
    <div className={`min-w-0 border-l-8 pl-2 ${className}`}>
      <p className="text-[12px] font-bold">{word} lead on</p>
      <p className="text-[16px] leading-tight font-bold break-words text-ink">{point}</p>
      {!plain && <p className="text-[12px] leading-tight text-soft">{how}</p>}
    </div>
  );
}
