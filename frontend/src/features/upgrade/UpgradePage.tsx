import { useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { whole } from "../../format/format";
import { Button } from "../../ui/Button";
import { NextLink } from "../../ui/NextLink";
import { BarLink, Page } from "../../ui/Page";
import { Cautions } from "../../ui/told/Cautions";
import { NotShown } from "../../ui/told/NotShown";
import { Opening } from "../../ui/told/Opening";
import { INK } from "../../ui/told/Verdict";
import { type Bench, type Candidate, useBench, useTake } from "./api";
import { CandidateTable } from "./CandidateTable";
import { usePlanned } from "./planned";

/** Every way to put a run right, side by side; one is taken as the plan. */
export function UpgradePage() {
  const { job = "" } = useParams();
  const [words, setWords] = useSearchParams();
  const view = {
    run: words.get("run") ?? undefined,
    minute: words.get("minute") ?? undefined,
  };
  const bench = useBench(job, view);
  if (bench.isPending) return <Opening says="Loading options …" />;
  if (!bench.data) {
    return (
      <NotShown
        what="The upgrade bench cannot be shown"
        error={bench.error}
        to={`/jobs/${job}`}
        way="To the run sheet"
      />
    );
  }
  const go = (more: { run?: string; minute?: string }) =>
    setWords(
      Object.fromEntries(
        Object.entries({ ...view, ...more }).filter((p): p is [string, string] => Boolean(p[1])),
      ),
    );
  return <Opened bench={bench.data} go={go} />;
}

function Opened({
  bench,
  go,
}: {
  bench: Bench;
  go: (more: { run?: string; minute?: string }) => void;
}) {
  const take = useTake(bench.job);
  const planned = usePlanned(bench.job);
  const [all, setAll] = useState(false);
  const shown = bench.candidates.filter((c) => all || !c.beaten_by);
  const folded = bench.candidates.length - shown.length;
  const onTake = (candidate: Candidate) =>
    take.mutate({ run: bench.run, candidate: candidate.id, revision: bench.revision }, planned);
  const sheet = new URLSearchParams({ run: bench.run });
  return (
    <Page
      title={`${bench.name} · upgrade bench`}
      back={[`/jobs/${bench.job}?${sheet}`, "Run sheet"]}
      heading={
        <>
          Repairs and upgrades <span className="font-normal text-soft">· {bench.title}</span>
        </>
      }
      acts={<BarLink to={`/jobs/${bench.job}/sizing`}>Size the whole craft</BarLink>}
      className="space-y-3"
    >
      <div className="flex flex-wrap items-end gap-x-6 gap-y-2">
        <label className="min-w-0 max-lg:w-full">
          <span className="block text-[13px] text-soft">Run</span>
          <select
            value={bench.run}
            onChange={(e) => go({ run: e.target.value })}
            className="min-h-11 w-full rounded border border-rule bg-plate px-2 text-lg font-bold lg:min-h-9"
          >
            {bench.runs.map((r) => (
              <option key={r.id} value={r.id}>
                {r.name}
              </option>
            ))}
          </select>
        </label>
        {bench.spare_v === null ? (
          <p className="pb-1">
            now <b className="num">?</b> V spare
          </p>
        ) : (
          <p className="pb-1">
            now{" "}
            <b className={`num ${bench.spare_v.si < 0 ? INK.over : INK.within}`}>
              {whole(bench.spare_v)}
            </b>{" "}
            spare in “{bench.worst}”,{" "}
            {bench.measured ? "as measured" : "as drawn: nothing read yet"}
          </p>
        )}
        <Minute bench={bench} onKeep={(minute) => go({ minute })} />
      </div>
      {bench.recommended && (
        <p className="text-[15px]" data-testid="recommended">
          <b>{bench.recommended}</b> <span className="text-soft">{bench.changes}</span>
        </p>
      )}
      {bench.planned && (
        <NextLink to={`/jobs/${bench.job}/order?${sheet}`}>Open the work order</NextLink>
      )}
      {!bench.done && (
        <p role="status" className="text-soft">
          Working out candidates … {bench.candidates.length} so far.
        </p>
      )}
      {bench.done && bench.candidates.length === 0 && <p>No option to offer for this run.</p>}
      {shown.length > 0 && (
        <section aria-label="Candidates" className="overflow-x-auto">
          <CandidateTable bench={bench} candidates={shown} onTake={onTake} busy={take.isPending} />
        </section>
      )}
      {(folded > 0 || all) && (
        <Button tone="quiet" className="text-slate underline" onClick={() => setAll(!all)}>
          {all
            ? "Hide the options that are beaten"
            : `Show ${folded} more (another option is better)`}
        </Button>
      )}
      {bench.refused.length > 0 && (
        <ul aria-label="Not offered" className="space-y-1">
          {bench.refused.map((why) => (
            <li key={why} className="border-l-2 border-ochre pl-2">
              {why}
            </li>
          ))}
        </ul>
      )}
      <Cautions cautions={bench.cautions} />
    </Page>
  );
}

/** What a minute of work costs: it decides between parts and time. */
function Minute({ bench, onKeep }: { bench: Bench; onKeep: (minute: string) => void }) {
  const [typed, setTyped] = useState(String(bench.minute));
  const value = Number(typed.replace(",", "."));
  const wrong = typed.trim() === "" || !(value >= 0 && value <= 1000);
  return (
    <form
      className="max-lg:w-full"
      onSubmit={(e) => {
        e.preventDefault();
        if (!wrong) onKeep(String(value));
      }}
    >
      <label>
        <span className="block text-[13px] text-soft">Labour per minute</span>
        <input
          value={typed}
          inputMode="decimal"
          aria-invalid={wrong}
          onChange={(e) => setTyped(e.target.value)}
          onBlur={() => !wrong && value !== bench.minute && onKeep(String(value))}
          className={`num min-h-11 w-28 rounded border bg-plate px-2 lg:min-h-9 ${wrong ? "border-2 border-over" : "border-rule"}`}
        />
      </label>
      {wrong && (
        <p role="alert" className="text-[13px] text-over">
          A number from 0 to 1000.
        </p>
      )}
    </form>
  );
}
