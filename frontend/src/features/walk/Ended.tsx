import { useNavigate } from "react-router";
import { Button } from "../../ui/Button";
import type { Walk } from "./api";
import type { What } from "./opened";
import { useWalkActs } from "./useWalkActs";
import { WalkLoop } from "./WalkLoop";

/** Why a walk is over, what that rests on, and the one thing to do next. */
export function Ended({
  walk,
  onPair,
  onOpen,
}: {
  walk: Walk;
  onPair: (red: string, black: string) => void;
  onOpen: (what: What) => void;
}) {
  return (
    <section
      aria-label="The walk has ended"
      className="rounded-lg border-2 border-ink bg-plate p-4"
    >
      <h2 className="text-xl font-bold">{walk.ending_says}</h2>
      <p className="mt-1">{walk.verdict_says}</p>
      {walk.rests_on && <p className="mt-1 text-[14px] text-soft">{walk.rests_on}</p>}
      <WalkLoop walk={walk} onPair={onPair} />
      <Next walk={walk} onOpen={onOpen} />
    </section>
  );
}

function Next({ walk, onOpen }: { walk: Walk; onOpen: (what: What) => void }) {
  const navigate = useNavigate();
  const { note } = useWalkActs(walk);
  const next = walk.after;
  if (!next) return null;
  const run = `run=${encodeURIComponent(walk.run)}`;
  const pages: Partial<Record<typeof next.act, string>> = {
    repair: `/upgrade?${run}`,
    proof: `/proof?${run}`,
    sheet: `?${run}&scenario=${walk.scenario}&stage=${walk.stage}`,
  };
  const page = pages[next.act];
  const go = () => {
    if (page !== undefined) return navigate(`/jobs/${walk.job}${page}`);
    if (next.act !== "take_up") return onOpen(next.act as What);
    const first = walk.skipped[0];
    return first && note(first.id, "back");
  };
  return (
    <Button tone="strong" className="mt-3 min-h-12 w-full text-lg" onClick={go}>
      {next.says}
    </Button>
  );
}
