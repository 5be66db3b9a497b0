import { Archive, ArchiveRestore, Copy } from "lucide-react";
import { Link } from "react-router";
import { day } from "../../format/day";
import { brief, marked } from "../../format/format";
import { Button } from "../../ui/Button";
import { INK, VerdictWord } from "../../ui/told/Verdict";
import type { Job } from "./api";
import { STATES } from "./Finder";

const CRAFT = { boat: "Boat", vehicle: "Vehicle", caravan: "Caravan", other: "Craft" };

/** One job of a list: what it complains of, what was found, how it stands. */
export function JobRow({
  job,
  onMove,
  onCopy,
}: {
  job: Job;
  onMove: () => void;
  onCopy: () => void;
}) {
  return (
    <li className="relative flex flex-wrap items-center gap-x-6 gap-y-2 py-4">
      <div className="min-w-60 flex-1">
        <h2 className="text-base font-bold">
          <Link
            to={job.run_count || job.waiting ? `/jobs/${job.id}` : `/jobs/${job.id}/craft`}
            className="after:absolute after:inset-0"
          >
            {job.title}
          </Link>
        </h2>
        {job.complaint && <p className="mt-0.5">{job.complaint}</p>}
        {job.fault && (
          <p className="mt-0.5">
            Found: <b>{job.fault}</b>
          </p>
        )}
        <p className="mt-1 text-[13px] text-soft">
          <time dateTime={job.made_at}>{day(job.made_at)}</time>
          {job.customer && ` · ${job.customer}`}
          {!job.waiting && (
            <>
              {" "}
              · {CRAFT[job.craft]}, {marked(job.nominal_v)} V · {job.run_count}{" "}
              {job.run_count === 1 ? "run" : "runs"} · {job.reading_count} readings
            </>
          )}
          {job.state && ` · ${STATES[job.state]}`}
          {job.craft_name && (
            <>
              {" "}
              ·{" "}
              <Link
                to={`/?${new URLSearchParams({ craft: job.craft_name, away: "any" })}`}
                className="relative z-10 inline-flex min-h-11 items-center text-slate underline lg:min-h-8"
              >
                all of {job.craft_name}
              </Link>
            </>
          )}
        </p>
        {job.trouble && <p className="mt-1 text-over">{job.trouble}</p>}
      </div>
      <div className="w-44">
        <p className="text-[13px] text-soft">{job.focus_name}</p>
        {job.waiting ? (
          <p className="text-soft">calculating …</p>
        ) : job.run_count === 0 ? (
          <p className="text-soft">no run drawn yet</p>
        ) : (
          <>
            <p className={`num text-xl font-bold ${INK[job.verdict]}`}>
              {brief(job.spare_v)}{" "}
              <span className="font-sans text-sm font-normal text-soft">V spare</span>
            </p>
            <p className="text-[13px]">
              <VerdictWord verdict={job.verdict} />
              {job.verdict !== "not_measured" && (
                <span className="text-soft"> {job.measured ? "measured" : "calculated"}</span>
              )}
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
        aria-label={`New job on the craft of ${job.title}`}
        title="New job on the same craft"
        onClick={onCopy}
      >
        <Copy size={17} aria-hidden />
      </Button>
      <Button
        tone="quiet"
        className="relative z-10 -ml-4"
        aria-label={job.away ? `Restore ${job.title}` : `Archive ${job.title}`}
        title={job.away ? "Restore" : "Archive"}
        onClick={onMove}
      >
        {job.away ? <ArchiveRestore size={17} aria-hidden /> : <Archive size={17} aria-hidden />}
      </Button>
    </li>
  );
}
