import { FileUp, Gauge, GraduationCap, Pencil, Settings2, Table2 } from "lucide-react";
import { type DragEvent, lazy, Suspense, useEffect, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { sentence } from "../../api/client";
import { useSettings } from "../../format/settings";
import { BarTools } from "../../ui/BarTools";
import { Button } from "../../ui/Button";
import { Heading } from "../../ui/Heading";
import { useSay } from "../../ui/told/Notices";
import { useTitle } from "../../ui/useTitle";
import { useInHand } from "../../ui/useWidth";
import { type Job, useCopyJob, useJobs, useMoveJob } from "./api";
import { askedOf, Finder } from "./Finder";
import { JobRow } from "./JobRow";
import { NewJob } from "./NewJob";

// Of a hand alone: the first page is to be light.
const More = lazy(async () => ({ default: (await import("../../ui/More")).More }));
const Doors = lazy(async () => ({ default: (await import("./Doors")).Doors }));
const BringIn = lazy(async () => ({ default: (await import("./BringIn")).BringIn }));

/** The shelf: every job, what it complains of, and how it stands. */
export function JobsPage() {
  const [words, setWords] = useSearchParams();
  const asked = askedOf(words);
  const [bringing, setBringing] = useState<File | "ask" | null>(null);
  const [drawing, setDrawing] = useState(false);
  // From another page, by what finds anything.
  const begin = words.get("begin");
  useEffect(() => {
    if (!begin) return;
    if (begin === "job") setDrawing(true);
    if (begin === "import") setBringing("ask");
    setWords(asked, { replace: true });
  }, [begin, asked, setWords]);
  useTitle("Spare Margin");
  const drop = (event: DragEvent) => {
    event.preventDefault();
    const file = event.dataTransfer.files[0];
    if (file) setBringing(file);
  };
  const onDraw = () => setDrawing(true);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping a file is a second way; the button is the first
    <div className="min-h-full" onDragOver={(e) => e.preventDefault()} onDrop={drop}>
      <Bar onDraw={onDraw} onBring={() => setBringing("ask")} />
      <main className="mx-auto max-w-5xl px-4 py-5 sm:px-8">
        <Shelf asked={asked} set={setWords} onDraw={onDraw} />
      </main>
      <Suspense>
        {bringing && <BringIn given={bringing} onClose={() => setBringing(null)} />}
      </Suspense>
      <NewJob open={drawing} onClose={() => setDrawing(false)} />
    </div>
  );
}

/** The workshop's bar: what can be begun, and what is not of one job. */
function Bar({ onDraw, onBring }: { onDraw: () => void; onBring: () => void }) {
  const workshop = useSettings().data?.workshop;
  const inHand = useInHand();
  const acts = (
    <>
      <Button data-closes onClick={onDraw}>
        <Pencil size={17} aria-hidden /> New job
      </Button>
      <Button data-closes onClick={onBring}>
        <FileUp size={17} aria-hidden /> Import a job file
      </Button>
      <nav aria-label="The workshop" className="flex items-center">
        <Link to="/tables" className="inline-flex min-h-11 items-center gap-1 px-2 lg:min-h-8">
          <Table2 size={17} aria-hidden /> Tables
        </Link>
        <Link to="/practise" className="inline-flex min-h-11 items-center gap-1 px-2 lg:min-h-8">
          <GraduationCap size={17} aria-hidden /> Practise
        </Link>
        <Link to="/settings" className="inline-flex min-h-11 items-center gap-1 px-2 lg:min-h-8">
          <Settings2 size={17} aria-hidden /> Settings
        </Link>
        <BarTools />
      </nav>
    </>
  );
  return (
    <header className="flex items-center gap-x-3 gap-y-1 border-b border-line px-4 py-2 sm:flex-wrap sm:px-8 sm:py-3">
      <div className="mr-auto min-w-0">
        <Heading className="text-xl font-bold">Spare Margin</Heading>
        <p className="text-soft max-sm:hidden">
          {workshop || "How much voltage each part of a circuit may drop, and how much it does."}
        </p>
      </div>
      <Link
        to="/check"
        className="inline-flex min-h-11 items-center gap-1.5 rounded border border-ink bg-ink px-3 font-bold text-canvas hover:opacity-90 lg:min-h-8 lg:px-2.5"
      >
        <Gauge size={17} aria-hidden /> Check one load
      </Link>
      {inHand ? (
        <Suspense fallback={<span className="size-11" />}>
          <More>{acts}</More>
        </Suspense>
      ) : (
        acts
      )}
    </header>
  );
}

/** The jobs that were asked for, in pages; where there is none, what to begin with. */
function Shelf({
  asked,
  set,
  onDraw,
}: {
  asked: URLSearchParams;
  set: (words: URLSearchParams) => void;
  onDraw: () => void;
}) {
  const shelf = useJobs(asked.toString());
  const navigate = useNavigate();
  const say = useSay();
  const moving = useMoveJob();
  const copying = useCopyJob();
  const onError = (error: unknown) => say(sentence(error), { bad: true });
  const move = (job: Job, away: boolean) =>
    moving.mutate(
      { job, away },
      {
        onSuccess: () => {
          if (away)
            say(`${job.title} archived.`, {
              act: { label: "Undo", run: () => move(job, false) },
            });
        },
        onError,
      },
    );
  const copy = (job: Job) =>
    copying.mutate(job, {
      onSuccess: (made) =>
        say(`New job on the same craft as ${job.title}, without its readings.`, {
          act: { label: "Open it", run: () => navigate(`/jobs/${made.id}/craft`) },
        }),
      onError,
    });
  const first = shelf.data?.pages[0];
  const jobs = shelf.data?.pages.flatMap((page) => page.jobs) ?? [];
  return (
    <>
      {shelf.isPending && <p className="text-soft">Loading jobs …</p>}
      {shelf.isError && (
        <p role="alert" className="rounded border border-over bg-over-fill p-3">
          {sentence(shelf.error)}{" "}
          <button type="button" className="font-bold underline" onClick={() => shelf.refetch()}>
            Try again
          </button>
        </p>
      )}
      {first && (
        <>
          {(jobs.length > 0 || asked.size > 0) && <Finder asked={asked} list={first} set={set} />}
          {jobs.length === 0 && asked.size > 0 && (
            <p className="rounded border border-dashed border-rule p-6 text-center">
              {first.waiting > 0
                ? "Nothing yet; some jobs are still being added up."
                : "No matching jobs."}
            </p>
          )}
          {jobs.length === 0 && asked.size === 0 && (
            <Suspense>
              <Doors archived={first.put_away > 0} onDraw={onDraw} />
            </Suspense>
          )}
          <ul
            aria-label="Jobs"
            className="divide-y divide-line border-y border-line empty:border-0"
          >
            {jobs.map((job) => (
              <JobRow
                key={job.id}
                job={job}
                onMove={() => move(job, !job.away)}
                onCopy={() => copy(job)}
              />
            ))}
          </ul>
          {shelf.hasNextPage && (
            <Button
              className="mt-3 w-full"
              disabled={shelf.isFetchingNextPage}
              onClick={() => shelf.fetchNextPage()}
            >
              More: {jobs.length} of {first.total} are shown
            </Button>
          )}
          {first.put_away > 0 && asked.get("away") === null && (
            <p className="mt-4">
              <Link
                to="/?away=yes"
                className="inline-flex min-h-11 items-center text-slate underline lg:min-h-8"
              >
                Archive ({first.put_away})
              </Link>
            </p>
          )}
          <footer className="mt-8 space-y-1 text-[13px] text-soft">
            {first.cautions.map((caution) => (
              <p key={caution}>{caution}</p>
            ))}
          </footer>
        </>
      )}
    </>
  );
}
