import { useState } from "react";
import { when } from "../../format/day";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/TextField";
import { VerdictWord } from "../../ui/told/Verdict";
import { type Proof, useProofActs } from "./api";

/** What was done, what was left and why, and every repair as it was read. */
export function LeftUndone({ proof }: { proof: Proof }) {
  const { note } = useProofActs(proof);
  const [typed, setTyped] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const text = typed ?? proof.left_undone;
  const keep = async () => {
    if (typed === null || typed.trim() === proof.left_undone) return setTyped(null);
    const said = typed.trim();
    const trouble = await note("proof.left", said ? "acknowledged" : "back", "left undone", said);
    setWrong(trouble);
    if (trouble === null) setTyped(null);
  };
  return (
    <section aria-label="Work done, work left" className="space-y-2">
      <h2 className="text-lg font-bold">Work done, work left</h2>
      {proof.done.length === 0 ? (
        <p className="text-soft">No change to the wiring yet.</p>
      ) : (
        <ul className="list-disc pl-5">
          {proof.done.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      )}
      {proof.unticked.length > 0 && (
        <details>
          <summary className="min-h-11 py-3 text-soft lg:min-h-8 lg:py-1.5">
            {proof.unticked.length} steps of the work order are not ticked
          </summary>
          <ul className="list-disc pl-5">
            {proof.unticked.map((step) => (
              <li key={step}>{step}</li>
            ))}
          </ul>
        </details>
      )}
      {proof.left_out.length > 0 && (
        <ul className="list-disc pl-5">
          {proof.left_out.map((x) => (
            <li key={x.what}>
              Not read: {x.what}. {x.why}
            </li>
          ))}
        </ul>
      )}
      <form
        className="no-print"
        onSubmit={(e) => {
          e.preventDefault();
          keep();
        }}
      >
        <TextField label="Work left, and why" long value={text} onChange={setTyped} wrong={wrong} />
        {typed !== null && typed.trim() !== proof.left_undone && (
          <Button type="submit" className="mt-1">
            Save
          </Button>
        )}
      </form>
      {proof.left_undone && <p className="hidden print:block">{proof.left_undone}</p>}
      {proof.tries.length > 0 && (
        <ol aria-label="Repairs and their readings" className="border-b border-line">
          {proof.tries.map((t, i) => (
            <li key={t.made_at + t.says} className="border-t border-line py-1">
              <b>{proof.tries.length > 1 ? `Repair ${i + 1}` : "Repair"}</b>{" "}
              <time dateTime={t.made_at} className="text-soft">
                {when(t.made_at)}
              </time>{" "}
              <VerdictWord verdict={t.verdict} /> <span>{t.says}</span>
            </li>
          ))}
        </ol>
      )}
    </section>
  );
}
