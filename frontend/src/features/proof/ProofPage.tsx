import { ArrowLeft, FileDown, Printer } from "lucide-react";
import { useEffect } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { Button } from "../../ui/Button";
import { Pick } from "../../ui/TextField";
import { ThemeButton } from "../../ui/ThemeButton";
import { Away } from "../../ui/told/Away";
import { NotShown } from "../../ui/told/NotShown";
import { Opening } from "../../ui/told/Opening";
import { usePulse } from "../walk/api";
import { Alike } from "./Alike";
import { type Proof, useProof } from "./api";
import { Conditions } from "./Conditions";
import { LeftUndone } from "./LeftUndone";
import { Pieces, Readings } from "./Readings";
import { Signing } from "./Signing";
import { Stairs } from "./Stairs";

/** The proof of a repair: what a pass needs, before and after, like for like, signatures. */
export function ProofPage() {
  const { job = "" } = useParams();
  const [words, setWords] = useSearchParams();
  const proof = useProof(job, words.get("run"));
  useEffect(() => {
    if (proof.data) document.title = `${proof.data.name} · proof`;
  }, [proof.data]);
  if (proof.isPending) return <Opening says="Adding it up …" />;
  if (!proof.data) {
    return (
      <NotShown
        what="There is nothing to prove here"
        error={proof.error}
        to={`/jobs/${job}`}
        way="To the run sheet"
      />
    );
  }
  return <Opened proof={proof.data} choose={(run) => setWords({ run }, { replace: true })} />;
}

const SIGNS: Record<Proof["outcome"], [string, string]> = {
  passed: ["✓", "text-slate"],
  failed: ["▲", "text-over"],
  open: ["○", "text-ochre"],
};

function Opened({ proof, choose }: { proof: Proof; choose: (run: string) => void }) {
  const away = usePulse(proof.job);
  const words = new URLSearchParams({ run: proof.run });
  const [sign, ink] = SIGNS[proof.outcome];
  return (
    <div className="min-h-full">
      <header className="no-print flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line bg-rail px-3 py-2 sm:px-5">
        <Link
          to={`/jobs/${proof.job}?${words}`}
          className="inline-flex min-h-11 items-center gap-1 text-slate lg:min-h-8"
        >
          <ArrowLeft size={15} aria-hidden /> Run sheet
        </Link>
        <span className="flex-1" />
        <a
          href={`/api/v1/jobs/${proof.job}/hand-over.pdf?${words}`}
          download
          className="inline-flex min-h-11 items-center gap-1 font-bold text-slate underline lg:min-h-8"
        >
          <FileDown size={15} aria-hidden /> Hand-over sheet
        </a>
        <a
          href={`/api/v1/jobs/${proof.job}/proof.csv?${words}`}
          download
          className="inline-flex min-h-11 items-center gap-1 font-bold text-slate underline lg:min-h-8"
        >
          Before and after as CSV
        </a>
        <Button tone="quiet" onClick={() => window.print()}>
          <Printer size={16} aria-hidden /> Print
        </Button>
        <ThemeButton />
      </header>
      <main className="mx-auto max-w-6xl px-3 py-3 sm:px-5">
        <Away away={away} />
        <div className="flex flex-wrap items-start gap-x-6 gap-y-2">
          <div className="min-w-0 flex-1 basis-80">
            <h1 className="text-xl font-bold">Proof: {proof.name}</h1>
            <p className="text-soft">{[proof.title, proof.customer].filter(Boolean).join(" · ")}</p>
            <p className={`mt-1 text-lg font-bold ${ink}`} data-testid="outcome">
              <span aria-hidden className="num mr-1">
                {sign}
              </span>
              {proof.outcome_says}
            </p>
            {proof.won && <p>{proof.won}</p>}
          </div>
          {proof.runs.length > 1 && (
            <Pick
              className="no-print basis-52"
              label="run"
              value={proof.run}
              choices={proof.runs.map((r): [string, string] => [r.id, r.name])}
              onPick={choose}
            />
          )}
        </div>
        <div className="mt-3 grid gap-x-8 gap-y-5 lg:grid-cols-[minmax(0,2fr)_minmax(0,3fr)]">
          <div className="space-y-5">
            <Conditions proof={proof} />
            <Alike proof={proof} />
            <LeftUndone proof={proof} />
          </div>
          <div className="space-y-5">
            <Stairs proof={proof} />
            <Readings proof={proof} />
            <Pieces proof={proof} />
            <Signing proof={proof} />
          </div>
        </div>
        <p className="mt-4 border-t border-line pt-2 text-[13px] text-soft">
          Supports competent people; the code in force, the maker’s instructions and licensed
          practice come first.
        </p>
      </main>
    </div>
  );
}
