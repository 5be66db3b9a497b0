import { Camera } from "lucide-react";
import { useState } from "react";
import { Button } from "../../ui/Button";
import { type Of, type Stage, usePhotographs } from "./api";
import { BesideEachOther } from "./Photographs";

/** One button that opens the photographs of a thing, closed as long as there are none. */
export function OpenPhotographs({
  job,
  of,
  name,
  stages,
}: {
  job: string;
  of: Of;
  name: string;
  stages?: Stage[];
}) {
  const { all } = usePhotographs(job);
  // Of this very thing: what was taken at another step on the same piece stands with that.
  const own = all.filter(({ photograph: p }) => p.subject === of.subject && p.about === of.about);
  const [wanted, setWanted] = useState<boolean | null>(null);
  const open = wanted ?? own.length > 0;
  return (
    <>
      <Button
        tone="quiet"
        className="no-print shrink-0"
        aria-expanded={open}
        aria-label={`Photographs of ${name}${own.length > 0 ? `: ${own.length}` : ""}`}
        onClick={() => setWanted(!open)}
      >
        <Camera size={18} aria-hidden />
        {own.length > 0 && <span className="num">{own.length}</span>}
      </Button>
      {open && (
        <div className="w-full pb-2">
          <BesideEachOther job={job} of={of} name={name} shown={own} stages={stages} />
        </div>
      )}
    </>
  );
}
