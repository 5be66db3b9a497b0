import { useState } from "react";
import type { Schema, Sheet } from "../../../api/client";
import { bare, brief, type Figure, lengthUnit, whole } from "../../../format/format";
import { Button } from "../../../ui/Button";
import { INK, VerdictWord } from "../../../ui/told/Verdict";
import { about, Why } from "../../../ui/Why";
import { useWorst } from "../api";
import { useDesk } from "../desk";
import { LimitComparison } from "./LimitComparison";

const BASIS = {
  predicted: "calculated",
  as_found: "measured, as found",
  as_left: "measured, as left",
};

const over = (room: Figure | null) => room !== null && room.si < 0;
/** The word beside it says which way: a sign would say it twice. */
const unsigned = (text: string) => text.replace(/^[\u2212-]/, "");

/** The run in one glance: volts at the load, what is spare in four units, the verdict. */
export function HeadLine({ sheet }: { sheet: Sheet }) {
  const { run } = sheet;
  const room = run.headroom;
  const [compared, setCompared] = useState(false);
  const lines = (...names: string[]) => about(run.working, ...names);
  const share = run.spare_share === null ? "" : ` ${whole(run.spare_share)}`;
  return (
    <div className="text-right">
      <dl
        className="flex flex-wrap items-start gap-x-7 gap-y-2 text-left"
        aria-label="The run at a glance"
      >
        <Headline
          value={
            run.load_v === null && run.load.guessed ? "?" : brief(run.load_v ?? run.load.volts)
          }
          unit="V"
          name="at the load"
          lines={lines("load_v")}
        />
        <Headline
          value={brief(run.spare_v)}
          unit={`V${share}`}
          name={run.spare_under ? `spare, ${run.spare_under}` : "spare"}
          tone={run.spare_v !== null && run.spare_v.si < 0 ? INK.over : INK.within}
          lines={lines("feed", "return", "round_trip")}
        />
        <Headline
          value={room.amperes === null ? "–" : unsigned(bare(room.amperes))}
          unit="A"
          name={over(room.amperes) ? "too much" : "more at most"}
          lines={lines("amperes")}
        />
        <Headline
          value={room.metres === null ? "–" : unsigned(bare(room.metres))}
          unit={lengthUnit()}
          name={over(room.metres) ? "too long" : "longer at most"}
          lines={lines("metres")}
        />
        <div>
          <dt className="sr-only">verdict</dt>
          <dd className="text-xl" data-testid="verdict">
            <VerdictWord verdict={run.verdict} />
          </dd>
          {run.verdict !== "not_measured" && (
            <dd className="text-[13px] text-soft">{BASIS[run.basis]}</dd>
          )}
        </div>
      </dl>
      <p className="mt-0.5 flex flex-wrap items-baseline justify-end gap-x-3 text-[13px] text-soft">
        <Worst />
        <span>
          limits: {sheet.limit_set}
          <Button
            tone="quiet"
            className="ml-1 text-slate underline"
            onClick={() => setCompared(true)}
          >
            side by side
          </Button>
        </span>
      </p>
      <LimitComparison open={compared} onClose={() => setCompared(false)} />
    </div>
  );
}

/** The scenario in which this run has least spare, and the way there. */
export function Worst() {
  const { kept, view, go } = useDesk();
  const found = useWorst(kept);
  const { measured, basis } = kept.run;
  const judged = basis === "predicted" ? undefined : measured;
  const read = judged && kept.scenarios.find((s) => s.name === judged.worst);
  // The headline is judged in that scenario: one figure for one thing.
  const worst = read
    ? { scenario: read.id, name: read.name, spare_v: kept.run.spare_v, says: "" }
    : found.data;
  // Of what was read a missing spare is one that is not known; of what is calculated, a load that stalls.
  if (!worst?.scenario || (read && worst.spare_v === null)) return null;
  const here = worst.scenario === kept.scenario && view.on === undefined;
  const spare =
    worst.spare_v === null
      ? "its load would stall"
      : `${brief(worst.spare_v)} V spare, ${read ? "as measured" : "calculated"}`;
  return (
    <span data-testid="worst" title={worst.says}>
      worst scenario:{" "}
      {here ? (
        <b className="text-ink">this one</b>
      ) : (
        <button
          type="button"
          className="min-h-11 font-bold text-slate underline lg:min-h-8"
          onClick={() => go({ scenario: worst.scenario, on: undefined })}
        >
          {worst.name}
        </button>
      )}
      , {spare}
    </span>
  );
}

function Headline({
  value,
  unit,
  name,
  tone = "",
  lines,
}: {
  value: string;
  unit: string;
  name: string;
  tone?: string;
  lines: Schema["WorkingLine"][];
}) {
  return (
    <div className="flex flex-col-reverse">
      <dt className="text-[13px] text-soft">{name}</dt>
      <dd className={`num text-xl font-bold ${tone}`}>
        <Why title={name} lines={lines} stop>
          {value}
        </Why>{" "}
        <span className="font-sans text-sm font-normal text-soft">{unit}</span>
      </dd>
    </div>
  );
}
