import { ShieldAlert } from "lucide-react";
import type { Stage } from "../../api/client";
import { useProtection } from "../../api/protection";

/**
 * What is wrong with the fuses of a wiring, or of one run of it. Says nothing where nothing is.
 *
 * @example <Protection job={sheet.job} revision={sheet.revision} stage={sheet.stage} run="pump" />
 */
export function Protection({
  job,
  revision,
  stage,
  run,
}: {
  job: string;
  revision: string;
  stage: Stage;
  run?: string;
}) {
  const { data } = useProtection(job, revision, stage, run);
  if (!data?.found.length) return null;
  return (
    <section aria-label="Fuses">
      <h2 className="mb-1 font-bold">Fuses</h2>
      <ul className="space-y-1.5">
        {data.found.map((f) => (
          <li key={f.code + f.piece + f.says} className="border-l-2 border-over pl-2">
            <ShieldAlert size={14} aria-hidden className="mr-1 inline text-over" />
            {f.says} <span className="text-soft">{f.do}</span>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-[13px] text-soft">
        Ampacities and opening times are typical; the maker’s figures and the code in force come
        first.
      </p>
    </section>
  );
}
