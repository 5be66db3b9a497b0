import { Archive, Copy, FileUp, Pencil, Settings2, Table2 } from "lucide-react";
import { type DragEvent, lazy, Suspense, useEffect, useState } from "react";
import { Link, useNavigate } from "react-router";
import { sentence } from "../../api/client";
import { brief } from "../../format/format";
import { useSettings } from "../../format/settings";
import { Button } from "../../ui/Button";
import { useSay } from "../../ui/Notices";
import { ThemeButton } from "../../ui/ThemeButton";
import { INK, VerdictWord } from "../../ui/Verdict";
import { type Job, useCopyJob, useJobs, useMoveJob } from "./api";
import { NewJob } from "./NewJob";

const BringIn = lazy(async () => ({ default: (await import("./BringIn")).BringIn }));

const STAGES = { as_found: "as found", planned: "planned", as_left: "as left" };
const CRAFT = { boat: "Boat", vehicle: "Vehicle", caravan: "Caravan", other: "Craft" };

/** The shelf: every job, what it complains of, and how it stands. */
export function JobsPage() {
  const shelf = useJobs();
  const [bringing, setBringing] = useState<File | "ask" | null>(null);
  const [drawing, setDrawing] = useState(false);
  const workshop = useSettings().data?.workshop;
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
            say(`${job.title} is put away.`, {
              act: { label: "Undo", run: () => move(job, false) },
            });
        },
        onError,
      },
    );
  const copy = (job: Job) =>
    copying.mutate(job, {
      onSuccess: (made) =>
        say(`A second job over the same craft as ${job.title}, without its readings.`, {
          act: { label: "Open it", run: () => navigate(`/jobs/${made.id}/craft`) },
        }),
      onError,
    });
  useEffect(() => {
    document.title = "Spare Margin";
  }, []);

  const drop = (event: DragEvent) => {
    event.preventDefault();
    const file = event.dataTransfer.files[0];
    if (file) setBringing(file);
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping a file is a second way; the button is the first
    <div className="min-h-full" onDragOver={(e) => e.preventDefault()} onDrop={drop}>
      <header className="flex flex-wrap items-center gap-3 border-b border-line px-4 py-3 sm:px-8">
        <div className="mr-auto">
          <h1 className="text-xl font-bold">Spare Margin</h1>
          <p className="text-soft">
            {workshop || "What each piece of a loop may lose, and what it does."}
          </p>
        </div>
        <Button tone="strong" onClick={() => setDrawing(true)}>
          <Pencil size={17} aria-hidden /> Draw up a new job
        </Button>
        <Button onClick={() => setBringing("ask")}>
          <FileUp size={17} aria-hidden /> Bring in a job file
        </Button>
        <nav aria-label="The workshop" className="flex items-center">
          <Link to="/tables" className="inline-flex min-h-11 items-center gap-1 px-2 lg:min-h-8">
            <Table2 size={17} aria-hidden /> Tables
          </Link>
          <Link to="/settings" className="inline-flex min-h-11 items-center gap-1 px-2 lg:min-h-8">
            <Settings2 size={17} aria-hidden /> Settings
          </Link>
          <ThemeButton />
        </nav>
      </header>
      <main className="mx-auto max-w-5xl px-4 py-5 sm:px-8">
        {shelf.isPending && <p className="text-soft">Looking at the shelf …</p>}
        {shelf.isError && (
          <p role="alert" className="rounded border border-over bg-over-fill p-3">
            {sentence(shelf.error)}{" "}
            <button type="button" className="font-bold underline" onClick={() => shelf.refetch()}>
              Try again
            </button>
          </p>
        )}
        {shelf.data && shelf.data.jobs.length === 0 && (
          <p className="rounded border border-dashed border-rule p-6 text-center">
            The shelf is empty. Draw up a new job, or drop a job file anywhere on this page.
          </p>
        )}
        {shelf.data && (
          <>
            <ul className="divide-y divide-line border-y border-line empty:border-0">
              {shelf.data.jobs.map((job) => (
                <JobRow
                  key={job.id}
                  job={job}
                  onAway={() => move(job, true)}
                  onCopy={() => copy(job)}
                />
              ))}
            </ul>
            {shelf.data.put_away.length > 0 && (
              <details className="mt-6">
                <summary className="min-h-8 text-soft">
                  Put away ({shelf.data.put_away.length})
                </summary>
                <ul className="mt-2 space-y-1">
                  {shelf.data.put_away.map((job) => (
                    <li key={job.id} className="flex items-center gap-3">
                      <span className="mr-auto">{job.title}</span>
                      <Button onClick={() => move(job, false)}>Take back</Button>
                    </li>
                  ))}
                </ul>
              </details>
            )}
            <footer className="mt-8 space-y-1 text-[13px] text-soft">
              {shelf.data.cautions.map((caution) => (
                <p key={caution}>{caution}</p>
              ))}
            </footer>
          </>
        )}
      </main>
      <Suspense>
        {bringing && <BringIn given={bringing} onClose={() => setBringing(null)} />}
      </Suspense>
      <NewJob open={drawing} onClose={() => setDrawing(false)} />
    </div>
  );
}

function JobRow({ job, onAway, onCopy }: { job: Job; onAway: () => void; onCopy: () => void }) {
  return (
    <li className="relative flex flex-wrap items-center gap-x-6 gap-y-2 py-4">
      <div className="min-w-60 flex-1">
        <h2 className="text-base font-bold">
          <Link
            to={job.run_count ? `/jobs/${job.id}` : `/jobs/${job.id}/craft`}
            className="after:absolute after:inset-0"
          >
            {job.title}
          </Link>
        </h2>
        {job.complaint && <p className="mt-0.5">{job.complaint}</p>}
        <p className="mt-1 text-[13px] text-soft">
          {CRAFT[job.craft]}, {job.nominal_v} V · {job.run_count}{" "}
          {job.run_count === 1 ? "run" : "runs"} · {job.reading_count} readings ·{" "}
          {STAGES[job.stage]}
        </p>
        {job.trouble && <p className="mt-1 text-over">{job.trouble}</p>}
      </div>
      <div className="w-44">
        <p className="text-[13px] text-soft">{job.focus_name}</p>
        {job.run_count === 0 ? (
          <p className="text-soft">no run drawn yet</p>
        ) : (
          <>
            <p className={`num text-xl font-bold ${INK[job.verdict]}`}>
              {brief(job.spare_v)}{" "}
              <span className="font-sans text-sm font-normal text-soft">V spare</span>
            </p>
            <p className="text-[13px]">
              <VerdictWord verdict={job.verdict} />{" "}
              <span className="text-soft">{job.measured ? "measured" : "predicted"}</span>
            </p>
          </>
        )}
      </div>
      <Link
        to={`/jobs/${job.id}/craft`}
        aria-label={`The craft of ${job.title} as a whole`}
        className="relative z-10 inline-flex min-h-11 items-center font-bold text-slate underline lg:min-h-8"
      >
        Craft
      </Link>
      <Button
        tone="quiet"
        className="relative z-10"
        aria-label={`A second job over the craft of ${job.title}`}
        title="A second job over the same craft"
        onClick={onCopy}
      >
        <Copy size={17} aria-hidden />
      </Button>
      <Button
        tone="quiet"
        className="relative z-10 -ml-4"
        aria-label={`Put ${job.title} away`}
        title="Put away"
        onClick={onAway}
      >
        <Archive size={17} aria-hidden />
      </Button>
    </li>
  );
}
