import { useRef, useState } from "react";
import { withUnit } from "../../format/milli";
import { Button } from "../../ui/Button";
import { INK, VerdictWord } from "../../ui/told/Verdict";
import { usePhotographs } from "../photographs/api";
import { BesideEachOther } from "../photographs/Photographs";
import type { Card, Walk } from "./api";
import { StepCard } from "./card/StepCard";
import { useWalkActs } from "./useWalkActs";

/** What was read and skipped so far; any of it can be read again or taken up after all. */
export function DoneCards({ walk }: { walk: Walk }) {
  const [again, setAgain] = useState<string | null>(null);
  const opener = useRef<HTMLButtonElement>(null);
  const { note, take } = useWalkActs(walk);
  const { all } = usePhotographs(walk.job);
  const stage = walk.stage === "as_left" ? "as_left" : "as_found";
  const [wrong, setWrong] = useState<string | null>(null);
  /** The card is open again then; the reading stays in the record. */
  const takeBack = async ({ kind, red, black, title, cell }: Card) => {
    const quantity = kind === "current" ? "amperes" : "volts";
    const at = { quantity, red: red.id, black: black.id } as const;
    setWrong(await take({ ...at, typed: "", supersedes: cell?.reading ?? null }, title));
    setAgain(null);
  };
  // What is told of the whole run is not told once more here.
  const untold = ({ says }: { says: string }) => walk.findings.every((f) => f.says !== says);
  const guards = walk.guards.filter((g) => g.acknowledged);
  const stepped = walk.done.length + walk.skipped.length + walk.beside.length + guards.length;
  if (stepped === 0) return null;
  return (
    <section aria-label="So far">
      <h2 className="font-bold">So far</h2>
      <ul className="divide-y divide-line border-y border-line">
        {guards.length > 0 && (
          <li className="flex items-center gap-2 py-1.5">
            <span className="min-w-0 flex-1">Cautions read</span>
            <Button
              tone="quiet"
              aria-label="Show the cautions again"
              onClick={async () => {
                const wrong = await Promise.all(guards.map((g) => note(g.id, "back")));
                setWrong(wrong.find((w) => w !== null) ?? null);
              }}
            >
              again
            </Button>
          </li>
        )}
        {walk.done.map((card) => (
          <li key={card.id} className="py-1.5">
            <div className="flex items-center gap-2">
              <span className="min-w-0 flex-1">{card.title}</span>
              <Shown card={card} />
              <Button
                tone="quiet"
                aria-expanded={again === card.id}
                aria-label={`Read ${card.title} again`}
                onClick={(e) => {
                  opener.current = e.currentTarget;
                  setAgain(again === card.id ? null : card.id);
                }}
              >
                again
              </Button>
            </div>
            {card.cell?.findings.filter(untold).map((f) => (
              <p key={f.says} className="text-[13px] text-ochre">
                {f.says} <span className="text-soft">{f.do}</span>
              </p>
            ))}
            {again === card.id && (
              <>
                <StepCard
                  key={card.cell?.reading ?? card.id}
                  walk={walk}
                  card={card}
                  onTaken={() => {
                    setAgain(null);
                    opener.current?.focus();
                  }}
                />
                <Button className="mt-1.5 w-full" onClick={() => takeBack(card)}>
                  Take this reading back
                </Button>
                {card.cell?.reading && (
                  <BesideEachOther
                    job={walk.job}
                    of={{ subject: "reading", about: card.cell.reading }}
                    name={`the display at ${card.title}`}
                    stages={[stage]}
                    shown={all.filter((s) => s.photograph.about === card.cell?.reading)}
                  />
                )}
              </>
            )}
          </li>
        ))}
        {walk.beside.map(({ reading, says, ...at }) => (
          <li key={reading} className="flex items-center gap-2 py-1.5">
            <span className="min-w-0 flex-1">{says}</span>
            <Button
              tone="quiet"
              onClick={async () =>
                setWrong(await take({ ...at, typed: "", supersedes: reading }, says))
              }
            >
              take back
            </Button>
          </li>
        ))}
        {walk.skipped.map((card) => (
          <li key={card.id} className="flex items-center gap-2 py-1.5 text-soft">
            <span className="min-w-0 flex-1">
              {card.title}: {card.skipped}
            </span>
            <Button tone="quiet" onClick={() => note(card.id, "back")}>
              do it now
            </Button>
          </li>
        ))}
      </ul>
      {wrong && (
        <p role="alert" className="text-over">
          {wrong}
        </p>
      )}
    </section>
  );
}

function Shown({ card }: { card: Card }) {
  const { cell } = card;
  if (!cell) return null;
  return (
    <span className="text-right">
      <span className={`num font-bold ${INK[cell.verdict]}`}>
        {cell.state === "value"
          ? withUnit(cell.typed, card.kind === "current" ? "A" : "V")
          : cell.typed}
      </span>
      {cell.verdict !== "not_measured" && (
        <VerdictWord verdict={cell.verdict} className="block text-[12px]" />
      )}
      {cell.set_aside && <span className="block text-[12px] text-ochre">not used</span>}
    </span>
  );
}
