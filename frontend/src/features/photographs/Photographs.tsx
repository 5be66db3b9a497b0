import { useState } from "react";
import { AddPhotographs } from "./AddPhotographs";
import { isOf, type Of, type Shown, type Stage, usePhotographs, WHEN } from "./api";
import { Thumb } from "./Thumb";
import { Viewer } from "./Viewer";

const BOTH: Stage[] = ["as_found", "as_left"];

/** The photographs of one thing, before and after side by side, and room for more. */
export function Photographs({ job, of, name }: { job: string; of: Of; name: string }) {
  const { all } = usePhotographs(job);
  return (
    <section aria-label={`Photographs of ${name}`} className="no-print mt-3">
      <h3 className="font-bold">Photographs</h3>
      <BesideEachOther job={job} of={of} name={name} shown={all.filter((s) => isOf(s, of))} />
    </section>
  );
}

/** Photographs of one thing in two columns; with `of`, more can be added to either. */
export function BesideEachOther({
  job,
  of,
  name,
  shown,
  ticks = false,
  stages = BOTH,
}: {
  job: string;
  of: Of;
  name: string;
  shown: Shown[];
  /** Whether they can be ticked for the hand-over sheet. */
  ticks?: boolean;
  stages?: Stage[] | undefined;
}) {
  const [open, setOpen] = useState<string | null>(null);
  return (
    <div className={`grid gap-3 ${stages.length > 1 ? "grid-cols-2" : ""}`}>
      {stages.map((stage) => {
        const own = shown.filter((s) => s.photograph.stage === stage);
        return (
          <div key={stage} className="min-w-0">
            <p className="text-[13px] text-soft">{WHEN[stage]}</p>
            <ul className="flex flex-wrap gap-2">
              {own.map((s) => (
                <li key={s.photograph.id} className="min-w-0 max-w-full">
                  <Thumb
                    job={job}
                    shown={s}
                    name={`${name}, ${WHEN[stage].toLowerCase()}`}
                    ticks={ticks}
                    onOpen={() => setOpen(s.photograph.id)}
                  />
                </li>
              ))}
              <li>
                <AddPhotographs
                  job={job}
                  of={of}
                  stage={stage}
                  name={`Photograph of ${name}`}
                  label={`Add photographs of ${name}, ${WHEN[stage].toLowerCase()}`}
                >
                  Add
                </AddPhotographs>
              </li>
            </ul>
          </div>
        );
      })}
      <Viewer job={job} shown={shown} name={name} at={open} go={setOpen} />
    </div>
  );
}
