import { ArrowLeft, Download } from "lucide-react";
import { useEffect, useMemo } from "react";
import { Link, Navigate, useParams, useSearchParams } from "react-router";
import { Refused, type Sheet, type Stage, sentence } from "../../api/client";
import { marked } from "../../format/format";
import { BarTools } from "../../ui/BarTools";
import { Button } from "../../ui/Button";
import { Heading } from "../../ui/Heading";
import { HandBar } from "../../ui/Page";
import { Away } from "../../ui/told/Away";
import { Opening } from "../../ui/told/Opening";
import { useTitle } from "../../ui/useTitle";
import { useInHand, useWidth } from "../../ui/useWidth";
import { WhyProvider } from "../../ui/Why";
import { usePulse } from "../walk/api";
import { useSheet, type View } from "./api";
import { FootLine } from "./around/FootLine";
import { HeadLine } from "./around/HeadLine";
import { RunRail } from "./around/RunRail";
import { RunText } from "./around/RunText";
import { SaysPanel } from "./around/SaysPanel";
import { ScenarioBar } from "./around/ScenarioBar";
import { StageTabs } from "./around/StageTabs";
import { waysOf } from "./around/ways";
import { DeskContext, useDesk } from "./desk";
import { HandSheet } from "./HandSheet";
import { Inspector } from "./inspector/Inspector";
import { folded, lay, needed } from "./ledger/geometry";
import { Ledger } from "./ledger/Ledger";
import { useDeskState } from "./useDeskState";
import { useSheetKeys } from "./useSheetKeys";

const WORDS = ["run", "scenario", "stage", "on"] as const;

/** One run of a job, drawn up, budgeted and measured. */
export function RunSheetPage() {
  const { job = "" } = useParams();
  const [words, setWords] = useSearchParams();
  const view = useMemo<View>(
    () => Object.fromEntries(WORDS.flatMap((w) => (words.has(w) ? [[w, words.get(w)]] : []))),
    [words],
  );
  const kept = useSheet(job, view);
  if (kept.isPending) return <Opening says="Opening the sheet …" />;
  if (!kept.data) {
    const refused = kept.error instanceof Refused ? kept.error : null;
    if (refused?.errors[0]?.field === "run")
      return <Navigate to={view.run ? `/jobs/${job}` : `/jobs/${job}/craft`} replace />;
    const gone = refused?.status === 404;
    return (
      <main className="mx-auto max-w-md p-8">
        <Heading className="mb-2 text-xl font-bold">
          {gone ? "No such job" : "The sheet cannot be shown"}
        </Heading>
        <p role="alert" className="mb-4">
          {sentence(kept.error)}
        </p>
        <div className="flex gap-4">
          <Link to="/" className="font-bold text-slate underline">
            Back to jobs
          </Link>
          {!gone && (
            <button
              type="button"
              className="font-bold text-slate underline"
              onClick={() => {
                setWords({});
                kept.refetch();
              }}
            >
              Open it afresh
            </button>
          )}
        </div>
      </main>
    );
  }
  return (
    <Opened job={job} view={view} sheet={kept.data} setView={(next) => setWords(clean(next))} />
  );
}

function clean(view: View): Record<string, string> {
  return Object.fromEntries(
    Object.entries(view).filter(([, value]) => value !== undefined && value !== null),
  );
}

interface OpenedProps {
  job: string;
  view: View;
  sheet: Sheet;
  setView: (view: View) => void;
}

function Opened({ job, view, sheet, setView }: OpenedProps) {
  const inHand = useInHand();
  const desk = useDeskState(job, view, sheet, setView);
  const away = usePulse(job);
  useSheetKeys(desk);
  useTitle(`${sheet.run.load.name} · ${sheet.title}`);
  return (
    <DeskContext.Provider value={desk}>
      <WhyProvider>{inHand ? <InHand away={away} /> : <OnBench away={away} />}</WhyProvider>
    </DeskContext.Provider>
  );
}

function Complaint() {
  const { sheet } = useDesk();
  const text = [sheet.complaint, sheet.complaint_when, sheet.complaint_conditions]
    .filter(Boolean)
    .join(" ");
  return text ? (
    <p className="line-clamp-2 text-soft" title={text}>
      {text}
    </p>
  ) : null;
}

function OnBench({ away }: { away: boolean }) {
  const { sheet, wondering, selected, unfolded, setUnfolded } = useDesk();
  const [measure, width] = useWidth();
  const { columns } = sheet.run;
  const folds = needed(columns, sheet.run.folds, width);
  const chosen = folds.some((f) => selected !== null && f.pieces.includes(selected));
  useEffect(() => {
    if (chosen) setUnfolded(true);
  }, [chosen, setUnfolded]);
  const open = unfolded || chosen;
  const geometry = lay(open ? columns : folded(columns, folds), width, !open);
  return (
    <div className="print-wide grid min-h-full grid-cols-[176px_minmax(0,1fr)] print:block">
      <aside className="no-print sticky top-0 flex h-dvh flex-col gap-3 self-start overflow-y-auto border-r border-line bg-rail p-3">
        <Link to="/" className="inline-flex min-h-8 items-center gap-1 text-slate">
          <ArrowLeft size={15} aria-hidden /> Jobs
        </Link>
        <div>
          <h2 className="text-[15px] font-bold">{sheet.title}</h2>
          <p className="text-[13px] text-soft">{marked(sheet.nominal_v)} V nominal</p>
          {waysOf(sheet).map(([to, name]) => (
            <Link key={name} to={to} className="block min-h-8 font-bold text-slate underline">
              {name}
            </Link>
          ))}
        </div>
        <RunRail />
        <StageTabs />
        <div className="flex items-center">
          <BarTools />
          <a
            href={`/api/v1/jobs/${sheet.job}/file`}
            download
            aria-label="Download job file"
            title="Download job file"
            className="inline-flex min-h-8 items-center px-2.5"
          >
            <Download size={17} aria-hidden />
          </a>
        </div>
      </aside>
      <div className="flex min-w-0 flex-col">
        <main className="min-w-0 flex-1 px-4 pt-3">
          <Away away={away} />
          <div className="flex flex-wrap items-start justify-between gap-x-6 gap-y-2">
            <div className="min-w-0 flex-1 basis-72">
              <Heading className="text-xl font-bold">{sheet.run.load.name}</Heading>
              <Complaint />
            </div>
            <HeadLine sheet={sheet} />
          </div>
          <div className="mt-2 flex flex-wrap items-center justify-between gap-2">
            <ScenarioBar />
          </div>
          {wondering && (
            <p role="status" aria-label="What if" className="dots-close mt-2 rounded px-2 py-1">
              Preview, not saved. Enter to save, Esc to cancel.
            </p>
          )}
          {folds.length > 0 && open && (
            <Button
              tone="quiet"
              className="mt-1 text-slate underline"
              onClick={() => setUnfolded(false)}
            >
              Collapse to fit
            </Button>
          )}
          <section ref={measure} aria-label="Run sheet" className="mt-2 overflow-x-auto pr-1.5">
            {width > 0 && <Ledger geometry={geometry} />}
          </section>
          <div className="no-print">
            <RunText />
          </div>
          <div className="mt-3 grid grid-cols-[minmax(0,3fr)_minmax(0,2fr)] gap-6 border-t border-rule pt-3 pb-4">
            <div data-part="inspector">
              <Inspector />
            </div>
            <SaysPanel />
          </div>
        </main>
        <FootLine sheet={sheet} />
      </div>
    </div>
  );
}

function InHand({ away }: { away: boolean }) {
  const { sheet } = useDesk();
  const NAMES: Record<Stage, string> = {
    as_found: "As found",
    planned: "Planned",
    as_left: "As left",
  };
  return (
    <div className="flex min-h-full flex-col">
      <HandBar back={["/", "Jobs"]} heading={sheet.title} />
      <main className="flex-1">
        <div className="px-3 pt-2">
          <Away away={away} />
          {sheet.stages.length > 1 ? (
            <StageTabs />
          ) : (
            <p className="text-[13px] text-soft">{NAMES[sheet.stage]}</p>
          )}
        </div>
        <HandSheet />
      </main>
      <FootLine sheet={sheet} />
    </div>
  );
}
