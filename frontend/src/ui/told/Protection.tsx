import { ShieldAlert } from "lucide-react";
import type { Schema, Stage } from "../../api/client";
import { useProtection } from "../../api/protection";

type Found = Schema["ProtectionOut"];

/**
 * What is to be done about the fuses of a wiring, or of one run of it; why stands behind each. Says nothing where
 * nothing is.
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
  const acts = [...new Set(data.found.map((f) => f.act))];
  const of = (act: string): Found[] => data.found.filter((f) => f.act === act);
  return (
    <section aria-label="Fuses">
      <h2 className="mb-1 font-bold">Fuses</h2>
      <ul className="space-y-1.5">
        {acts.map((act) => (
          <li key={act} className="border-l-2 border-over pl-2">
            <details>
              <summary className="min-h-11 py-2.5 lg:min-h-6 lg:py-0.5">
                <ShieldAlert size={14} aria-hidden className="mr-1 inline text-over" />
                <b>{act}</b>
                {of(act).length > 1 && (
                  <span className="text-soft"> in {of(act).length} places</span>
                )}
              </summary>
              <ul className="space-y-1 pb-1">
                {of(act).map((f) => (
                  <li key={f.piece + f.says}>
                    {f.says} <span className="text-soft">{f.do}</span>
                  </li>
                ))}
              </ul>
            </details>
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
