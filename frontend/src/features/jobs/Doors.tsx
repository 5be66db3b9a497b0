import { ArrowRight } from "lucide-react";
import type { ReactNode } from "react";
import { Link, useNavigate } from "react-router";
import { sentence } from "../../api/client";
import { useSay } from "../../ui/told/Notices";
import { useSample } from "./api";

/** Where no job is open: three ways in, each of them into real work. */
export function Doors({ archived, onDraw }: { archived: boolean; onDraw: () => void }) {
  const sample = useSample();
  const navigate = useNavigate();
  const say = useSay();
  const lookRound = () =>
    sample.mutate(undefined, {
      onSuccess: ({ id }) => navigate(`/jobs/${id}`),
      onError: (error) => say(sentence(error), { bad: true }),
    });
  return (
    <section aria-label="Where to begin" className="space-y-3">
      <p className="text-soft">
        {archived ? "Every job is archived." : "No jobs yet."} Where do you want to begin?
      </p>
      <div className="grid gap-3 lg:grid-cols-3">
        <Link to="/check" className={DOOR}>
          <Door name="Measure one load now">
            Something runs badly and the meter is in your hand. The load's name is enough to begin.
          </Door>
        </Link>
        <button type="button" onClick={onDraw} className={DOOR}>
          <Door name="Plan a craft">
            Draw runs and shared wiring, see what each wire and joint may lose, and size them.
          </Door>
        </button>
        <button type="button" disabled={sample.isPending} onClick={lookRound} className={DOOR}>
          <Door name="Look round a sample job">
            A sloop's galley tap, read as found: sheet, repair, proof. Archive it when you are done.
          </Door>
        </button>
      </div>
      <p className="text-soft">Or drop a job file anywhere on this page.</p>
    </section>
  );
}

const DOOR =
  "block h-full rounded border border-rule bg-plate p-4 text-left hover:border-ink disabled:opacity-60";

function Door({ name, children }: { name: string; children: ReactNode }) {
  return (
    <>
      <span className="flex items-center gap-2 text-lg font-bold">
        <span className="flex-1">{name}</span>
        <ArrowRight size={18} aria-hidden />
      </span>
      <span className="mt-1 block text-soft">{children}</span>
    </>
  );
}
