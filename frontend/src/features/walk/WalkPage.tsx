import { type ReactNode, useEffect, useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { sentence } from "../../api/client";
import { HandBar } from "../../ui/Page";
import { Away } from "../../ui/told/Away";
import { VerdictWord } from "../../ui/told/Verdict";
import { useTitle } from "../../ui/useTitle";
import { WhyProvider } from "../../ui/Why";
import { type Card, useCard, usePulse, useWalk, type Walk } from "./api";
import { SplitCard } from "./card/SplitCard";
import { StepCard } from "./card/StepCard";
import { Suspects } from "./card/Suspects";
import { DoneCards } from "./DoneCards";
import { Ended } from "./Ended";
import { Guards } from "./Guards";
import { type Conditions, MomentLine } from "./MomentLine";
import { AS_SCENARIO, MomentContext } from "./moment";
import type { LeadsOn } from "./opened";
import { AtRest } from "./testing/AtRest";
import { AtSocket } from "./testing/AtSocket";
import { Free } from "./testing/Free";
import { Seen } from "./testing/Seen";
import { StandIn } from "./testing/StandIn";
import { Tried } from "./testing/Tried";
import { SumBar, WalkSum } from "./WalkSum";

/** The walk of a run: one measurement at a time, big, for one thumb. */
export function WalkPage() {
  const { job = "" } = useParams();
  const [words, setWords] = useSearchParams();
  const view = {
    run: words.get("run") ?? undefined,
    scenario: words.get("scenario") ?? undefined,
    stage: words.get("stage") ?? undefined,
  };
  const walk = useWalk(job, view);
  const away = usePulse(job);
  useTitle(walk.data && `Walk: ${walk.data.run_name}`);
  return (
    <div className="min-h-full">
      <HandBar
        back={[`/jobs/${job}${view.run ? `?run=${view.run}` : ""}`, "To the run sheet"]}
        heading={walk.data?.title ?? "Walk"}
      />
      {walk.isError && !walk.data && (
        <p role="alert" className="p-4 text-over">
          {sentence(walk.error)}
        </p>
      )}
      {walk.isPending && <p className="p-4 text-soft">Looking where the walk stands …</p>}
      {walk.data && (
        <WhyProvider>
          <Opened
            walk={walk.data}
            away={away}
            onRun={(run) => setWords({ ...(view.stage ? { stage: view.stage } : {}), run })}
          />
        </WhyProvider>
      )}
    </div>
  );
}

function Opened({
  walk,
  away,
  onRun,
}: {
  walk: Walk;
  away: boolean;
  onRun: (run: string) => void;
}) {
  const open = walk.guards.filter((g) => !g.acknowledged);
  const [moment, setMoment] = useState<Conditions>(AS_SCENARIO);
  return (
    <MomentContext.Provider value={moment}>
      <Shown walk={walk} away={away} onRun={onRun} open={open.length}>
        <MomentLine walk={walk} now={moment} set={setMoment} />
      </Shown>
    </MomentContext.Provider>
  );
}

function Shown({
  walk,
  away,
  onRun,
  open,
  children,
}: {
  walk: Walk;
  away: boolean;
  onRun: (run: string) => void;
  open: number;
  children: ReactNode;
}) {
  const [pair, setPair] = useState<Pair | null>(null);
  const [opened, setOpened] = useState<LeadsOn | null>(null);
  const card = useCard(walk, pair);
  const last = walk.done.length;
  // biome-ignore lint/correctness/useExhaustiveDependencies: another run is another loop
  useEffect(() => setPair(null), [walk.run]);
  // A pair of one's own ends when it is read, not when what was read before it is in.
  // biome-ignore lint/correctness/useExhaustiveDependencies: looked at when something was read
  useEffect(() => {
    const read = (p: Pair) =>
      walk.done.some((d) => d.kind !== "current" && sameEnds(p, d.red.id, d.black.id));
    setPair((p) => (p && read(p) ? null : p));
  }, [last]);
  const own = {
    onPair: (red: string, black: string) => setPair({ red, black }),
    ...(pair && card.data ? { onLeave: () => setPair(null) } : {}),
  };
  return (
    <main className="mx-auto grid max-w-5xl grid-cols-[minmax(0,1fr)] gap-x-8 px-3 pb-8 lg:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
      <div className="min-w-0">
        <div className="flex items-center gap-2 py-2">
          <label className={`min-w-0 flex-1 ${walk.runs.length < 2 ? "hidden" : ""}`}>
            <span className="sr-only">Run</span>
            <select
              value={walk.run}
              onChange={(e) => onRun(e.target.value)}
              className="min-h-12 w-full rounded border border-rule bg-plate px-2 text-lg font-bold"
            >
              {walk.runs.map((r) => (
                <option key={r.id} value={r.id}>
                  {r.name}
                </option>
              ))}
            </select>
          </label>
          <span role="status" data-testid="verdict" className="hidden lg:inline">
            <VerdictWord verdict={walk.verdict} />
          </span>
        </div>
        <Away away={away} />
        {walk.refused ? (
          <p role="alert" className="hatch-over rounded p-3 font-bold">
            {walk.refused}
          </p>
        ) : open > 0 ? (
          <Guards walk={walk} />
        ) : (card.data ?? walk.now) ? (
          <>
            {children}
            <StepCard walk={walk} card={(card.data ?? walk.now) as Card} {...own} />
          </>
        ) : walk.split ? (
          <SplitCard walk={walk} split={walk.split} onPair={own.onPair} />
        ) : (
          <Ended walk={walk} onPair={own.onPair} onOpen={(what) => setOpened({ what })} />
        )}
        {!walk.refused && open === 0 && (
          <>
            <Free walk={walk} opened={opened} />
            <Tried walk={walk} />
            {walk.socket.length > 0 && <AtSocket walk={walk} />}
            <AtRest walk={walk} opened={opened} />
            <Seen walk={walk} />
            <StandIn walk={walk} />
          </>
        )}
      </div>
      {open === 0 && (
        <>
          <div className="min-w-0 space-y-4 pt-3">
            <WalkSum walk={walk} />
            {walk.done.length > 0 && <Suspects walk={walk} />}
            <DoneCards walk={walk} />
          </div>
          <SumBar walk={walk} />
        </>
      )}
    </main>
  );
}

interface Pair {
  red: string;
  black: string;
}

const sameEnds = (p: Pair, a: string, b: string) =>
  (p.red === a && p.black === b) || (p.red === b && p.black === a);
