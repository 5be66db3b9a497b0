import { lazy, Suspense, useCallback, useEffect, useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { sentence } from "../../api/client";
import { NextLink } from "../../ui/NextLink";
import { OneOf } from "../../ui/OneOf";
import { BarLink, Page } from "../../ui/Page";
import { Cautions } from "../../ui/told/Cautions";
import { useSay } from "../../ui/told/Notices";
import { NotShown } from "../../ui/told/NotShown";
import { Opening } from "../../ui/told/Opening";
import { Protection } from "../../ui/told/Protection";
import { UndoRedo } from "../../ui/UndoRedo";
import { useInHand } from "../../ui/useWidth";
import { WhyProvider } from "../../ui/Why";
import { AddRun, lineKept } from "./AddRun";
import { AddSource } from "./AddSource";
import { Copper, Helps, Starts } from "./Asides";
import { type Craft, useCraft, useCraftStep } from "./api";
import { CraftFacts } from "./CraftFacts";
import { RunsTable } from "./RunsTable";
import { Scenarios } from "./Scenarios";
import { TrunkPicture } from "./TrunkPicture";

const RunGrid = lazy(async () => ({ default: (await import("./table/RunGrid")).RunGrid }));

/** A craft as a whole: its runs by what they have to spare, who loads what, and a line to type more. */
export function CraftPage() {
  const { job = "" } = useParams();
  const [words, setWords] = useSearchParams();
  const view = {
    stage: (words.get("stage") as Craft["stage"] | null) ?? undefined,
    scenario: words.get("scenario") ?? undefined,
  };
  const craft = useCraft(job, view);
  if (craft.isPending) return <Opening says="Opening the craft …" />;
  if (!craft.data) {
    return (
      <NotShown what="The craft cannot be shown" error={craft.error} to="/" way="Back to jobs" />
    );
  }
  const as = words.get("as") ?? undefined;
  const go: Go = (more) =>
    setWords(
      Object.fromEntries(
        Object.entries({ ...view, as, ...more }).filter((p): p is [string, string] =>
          Boolean(p[1]),
        ),
      ),
    );
  return (
    <WhyProvider>
      <Opened craft={craft.data} go={go} asTable={as === "table"} />
    </WhyProvider>
  );
}

export type Go = (more: { stage?: string; scenario?: string; as?: string }) => void;

const WAYS = [
  { id: "list", name: "As a list" },
  { id: "table", name: "As a table" },
];

function Opened({ craft, go, asTable }: { craft: Craft; go: Go; asTable: boolean }) {
  const empty = craft.runs.length === 0;
  // In the hand the runs come first: what is drawn to, and what the job is, come after them.
  const first = useInHand() && !empty;
  // As the page found it: what somebody opens or closes afterwards stays so.
  const [begun] = useState(() => lineKept(craft.job));
  return (
    <Page
      title={`${craft.title} · the craft`}
      back={["/", "Jobs"]}
      heading={craft.title}
      always={<Steps craft={craft} />}
      acts={
        <nav aria-label="This job" className="flex items-center gap-3">
          <BarLink to={`/jobs/${craft.job}/source`}>Source check</BarLink>
          {!empty && <BarLink to={`/jobs/${craft.job}/sizing`}>Sizes</BarLink>}
          {!empty && <BarLink to={`/jobs/${craft.job}/lists`}>Lists</BarLink>}
          {!empty && <BarLink to={`/jobs/${craft.job}`}>Run sheet</BarLink>}
        </nav>
      }
      className="grid gap-x-7 gap-y-5 lg:grid-cols-[minmax(0,5fr)_minmax(0,3fr)]"
    >
      <div className="min-w-0 space-y-4">
        {!first && <CraftFacts craft={craft} />}
        <Stages craft={craft} go={go} />
        <div className="no-print hidden lg:block">
          <OneOf
            label="How the runs are shown"
            value={asTable ? "table" : "list"}
            choices={WAYS}
            onPick={(as) => go({ as: as === "table" ? as : "" })}
          />
        </div>
        {craft.to_size > 0 && (
          <div className="flex flex-wrap items-center gap-3">
            <NextLink to={`/jobs/${craft.job}/sizing?start=yes`}>Size the craft</NextLink>
            <p className="text-soft">
              {craft.to_size} {craft.to_size === 1 ? "wire has" : "wires have"} no size yet: no
              volts are told until then.
            </p>
          </div>
        )}
        {asTable && (
          <Suspense fallback={<p className="text-soft">Opening the table …</p>}>
            <RunGrid craft={craft} />
          </Suspense>
        )}
        {!first && !asTable && <Draw craft={craft} />}
        {craft.notices.map((notice) => (
          <p key={notice} className="border-l-2 border-ochre pl-2">
            {notice}
          </p>
        ))}
        {!empty && !asTable && <RunsTable craft={craft} />}
        {first && (
          <>
            <details open={begun} className="rounded-lg border border-rule bg-plate px-3">
              <summary className="min-h-11 py-3 font-bold">Add a run or a charging path</summary>
              <div className="space-y-4 pb-3">
                <Draw craft={craft} />
              </div>
            </details>
            <CraftFacts craft={craft} />
          </>
        )}
      </div>
      <div className="min-w-0 space-y-5">
        <Scenarios craft={craft} go={go} />
        {!empty && (
          <>
            <Protection job={craft.job} revision={craft.revision} stage={craft.stage} />
            {craft.to_size === 0 && <TrunkPicture craft={craft} />}
            <Starts craft={craft} />
            <Helps craft={craft} />
            <Copper craft={craft} />
          </>
        )}
        <Cautions cautions={craft.cautions} />
      </div>
    </Page>
  );
}

function Draw({ craft }: { craft: Craft }) {
  return (
    <div className="no-print space-y-4">
      <AddRun craft={craft} />
      <AddSource craft={craft} />
    </div>
  );
}

const STAGES = { as_found: "As found", planned: "Planned", as_left: "As left" };

function Stages({ craft, go }: { craft: Craft; go: Go }) {
  if (craft.stages.length < 2) return null;
  return (
    <OneOf
      label="Stage of the wiring"
      value={craft.stage}
      choices={craft.stages.map(({ stage }) => ({ id: stage, name: STAGES[stage] }))}
      onPick={(stage) => go({ stage: stage as Craft["stage"] })}
    />
  );
}

/** Undo and redo, with the keys that everybody knows. */
function Steps({ craft }: { craft: Craft }) {
  const say = useSay();
  const { mutate } = useCraftStep(craft.job);
  const { stage } = craft;
  const step = useCallback(
    (direction: "undo" | "redo") =>
      mutate(
        { stage, direction },
        {
          onSuccess: (stepped) => say(stepped.said),
          onError: (error) => say(sentence(error), { bad: true }),
        },
      ),
    [mutate, stage, say],
  );
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement | null;
      const typing =
        target instanceof HTMLInputElement ||
        (target instanceof HTMLTextAreaElement && target.value !== "");
      if (typing || document.querySelector("[role=dialog]")) return;
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
        event.preventDefault();
        step(event.shiftKey ? "redo" : "undo");
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [step]);
  return <UndoRedo canUndo={craft.can_undo} canRedo={craft.can_redo} onStep={step} />;
}
