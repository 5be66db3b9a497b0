import { useCallback, useEffect, useRef } from "react";
import { speak, voice } from "../../meters/heard";
import { LiveBox } from "../../meters/LiveBox";
import { type Card, meaning, type Walk } from "../api";
import type { Reading } from "../useWalkActs";

interface Props {
  walk: Walk;
  card: Card;
  /** Keeps a figure for this card; what was wrong with it, or null. */
  onRead: (typed: string, more: Partial<Reading>) => Promise<string | null>;
  onStands: (typed: string) => void;
}

/** The meter that speaks, on the card that is open: what it gives is kept here, and the next place is said. */
export function OnCard({ walk, card, onRead, onStands }: Props) {
  const said = useSaidWithNext(card);
  const { bar } = card;
  const asked = new URLSearchParams({
    run: walk.run,
    scenario: walk.scenario,
    stage: walk.stage,
    red: card.red.id,
    black: card.black.id,
  });
  const share = useCallback(
    (value: number) => {
      if (!bar) return null;
      const shown = bar.least < 0 ? value : Math.abs(value);
      if (shown < bar.good_from || shown > bar.good_to) return 2;
      return (shown - bar.least) / Math.max(bar.good_to - bar.least, 1e-9);
    },
    [bar],
  );
  return (
    <LiveBox
      card={card.id}
      quantity={card.kind === "current" ? "amperes" : "volts"}
      share={share}
      recorded={`/jobs/${walk.job}/live?${asked}`}
      onStands={onStands}
      onTake={async (typed, by_meter, id) => {
        const means = voice.get() ? await meaning(walk, card, typed) : "";
        const wrong = await onRead(typed, { id, by_meter });
        said(wrong ?? `${typed}. ${means}`);
        return wrong;
      }}
      onUndo={(id) => onRead("", { supersedes: id })}
    />
  );
}

/** Says what was read together with where the leads go next, once that is known. */
function useSaidWithNext(card: Card): (text: string) => void {
  const waiting = useRef("");
  // biome-ignore lint/correctness/useExhaustiveDependencies: said when another card comes
  useEffect(() => {
    if (waiting.current) speak(`${waiting.current} Next: ${card.title}.`);
    waiting.current = "";
  }, [card.id]);
  // The last card goes without another to come.
  useEffect(() => () => void (waiting.current && speak(waiting.current)), []);
  return (text) => {
    waiting.current = text;
  };
}
