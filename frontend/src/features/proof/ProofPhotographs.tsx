import { usePhotographs } from "../photographs/api";
import { Everything } from "../photographs/Everything";

/** What was photographed, before beside after; what is ticked goes on the hand-over sheet. */
export function ProofPhotographs({ job }: { job: string }) {
  const { all } = usePhotographs(job);
  return (
    <section aria-label="Photographs">
      <h2 className="mb-1 text-lg font-bold">Photographs</h2>
      <Everything job={job} shown={all} />
    </section>
  );
}
