import { useState } from "react";
import { sentence } from "../../api/client";
import { draftOf, useDraft } from "../../offline/draft";
import { Button } from "../../ui/Button";
import { useSay } from "../../ui/told/Notices";
import { RunLineBox } from "../runline/RunLineBox";
import { TapPieces } from "../runline/TapPieces";
import { type Craft, useDraw, useTypicalRuns } from "./api";

const lineKey = (job: string) => `spare-margin.line.${job}`;

/** Whether a line was begun for this job, and not drawn yet. */
export const lineKept = (job: string) => Boolean(draftOf<string>(lineKey(job)));

/** A line to type the next run into, or a typical run to start from. Kept over a reload. */
export function AddRun({ craft }: { craft: Craft }) {
  const [begun, setBegun] = useDraft<string>(lineKey(craft.job));
  const text = begun ?? "";
  const [loaded, setLoaded] = useState(false);
  const draw = useDraw(craft.job);
  const say = useSay();
  const typical = useTypicalRuns();
  const type = (next: string) => setBegun(next || null);
  const put = async () => {
    try {
      const made = await draw.mutateAsync({ to: "lines", at: craft, body: { text } });
      type("");
      say(made.said);
      return null;
    } catch (error) {
      return sentence(error);
    }
  };
  const empty = craft.runs.length === 0;
  return (
    <section aria-label="Draw a run" className="space-y-2">
      {empty && (
        <p>
          Type the first run as the current passes: from the post out to the load and back, a{" "}
          <b className="num">&gt;</b> between pieces. Names in brackets are test points, as{" "}
          <b className="num">[Panel]</b>; a later run can start and end at any of them.
        </p>
      )}
      {/* Above the line, whose answer comes and goes: what is tapped must not move under the finger. */}
      <TapPieces value={text} onChange={type} loaded={loaded} />
      <RunLineBox
        job={craft.job}
        stage={craft.stage}
        label={empty ? "The first run, as one line" : "Next run, as one line"}
        value={text}
        onChange={type}
        onDraw={put}
        onLoaded={setLoaded}
        autoFocus={empty}
      >
        <div className="mt-2 flex flex-wrap items-end gap-2">
          <Button tone="strong" disabled={!text.trim() || draw.isPending} onClick={put}>
            Add run
          </Button>
          <label className="flex items-center gap-2 text-soft">
            Or start from
            <select
              value=""
              onChange={(e) => type(e.target.value)}
              className="min-h-11 max-w-64 rounded border border-rule bg-plate px-1.5 text-ink lg:min-h-8"
            >
              <option value="">a typical run …</option>
              {typical.data?.runs.map((run) => (
                <option key={run.name} value={run.line}>
                  {run.name}
                </option>
              ))}
            </select>
          </label>
        </div>
      </RunLineBox>
    </section>
  );
}
