import { FileDown, Printer } from "lucide-react";
import { useParams, useSearchParams } from "react-router";
import { Button } from "../../ui/Button";
import { Heading } from "../../ui/Heading";
import { NextLink } from "../../ui/NextLink";
import { BarFile, Page } from "../../ui/Page";
import { Pick } from "../../ui/TextField";
import { Away } from "../../ui/told/Away";
import { NotShown } from "../../ui/told/NotShown";
import { Opening } from "../../ui/told/Opening";
import { usePulse } from "../walk/api";
import { Alike } from "./Alike";
import { type Proof, useProof } from "./api";
import { Conditions } from "./Conditions";
import { LeftUndone } from "./LeftUndone";
import { ProofPhotographs } from "./ProofPhotographs";
import { Pieces, Readings } from "./Readings";
import { Signing } from "./Signing";
import { Stairs } from "./Stairs";

/** The proof of a repair: what a pass needs, before and after, like for like, signatures. */
export function ProofPage() {
  const { job = "" } = useParams();
  const [words, setWords] = useSearchParams();
  const proof = useProof(job, words.get("run"));
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
    <Page
      title={`${proof.name} · proof`}
      back={[`/jobs/${proof.job}?${words}`, "Run sheet"]}
      always={
        <BarFile href={`/api/v1/jobs/${proof.job}/hand-over.pdf?${words}`}>
          <FileDown size={15} aria-hidden /> Hand-over sheet
        </BarFile>
      }
      acts={
        <>
          <BarFile href={`/api/v1/jobs/${proof.job}/proof.csv?${words}`}>
            Before and after as CSV
          </BarFile>
          <Button tone="quiet" onClick={() => window.print()}>
            <Printer size={16} aria-hidden /> Print
          </Button>
        </>
      }
      className="max-w-6xl"
    >
      <Away away={away} />
      <div className="flex flex-wrap items-start gap-x-6 gap-y-2">
        <div className="min-w-0 flex-1 basis-80">
          <Heading className="text-xl font-bold">Proof: {proof.name}</Heading>
          <p className="text-soft">{[proof.title, proof.customer].filter(Boolean).join(" · ")}</p>
          <p className={`mt-1 text-lg font-bold ${ink}`} data-testid="outcome">
            <span aria-hidden className="num mr-1">
              {sign}
            </span>
            {proof.outcome_says}
          </p>
          {proof.won && <p>{proof.won}</p>}
          {proof.outcome === "failed" && (
            <p className="mt-2">
              <NextLink to={`/jobs/${proof.job}/upgrade?${words}`}>Plan the next repair</NextLink>
            </p>
          )}
        </div>
        {proof.runs.length > 1 && (
          <Pick
            className="no-print min-w-0 max-w-full basis-52"
            label="Run"
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
          <ProofPhotographs job={proof.job} />
          <Signing proof={proof} />
        </div>
      </div>
      <p className="mt-4 border-t border-line pt-2 text-[13px] text-soft">
        Supports competent people; the code in force, the maker’s instructions and licensed practice
        come first.
      </p>
    </Page>
  );
}
