import type { Sheet } from "../api/client";
import { INK, VerdictWord } from "../ui/Verdict";
import { amperes, metres, shortVolts } from "../units/format";

const BASIS = {
  predicted: "predicted",
  as_found: "by the readings as found",
  as_left: "by the readings as left",
};

/** The run in one glance: volts at the load, what is spare, the verdict. */
export function HeadLine({ sheet }: { sheet: Sheet }) {
  const { run } = sheet;
  const room = run.headroom;
  return (
    <dl className="flex flex-wrap items-start gap-x-7 gap-y-2" aria-label="The run at a glance">
      <Figure value={shortVolts(run.load_v ?? run.load.volts)} unit="V" name="at the load" />
      <Figure
        value={shortVolts(run.spare_v)}
        unit="V"
        name={`spare, ${run.spare_under}`}
        tone={run.spare_v !== null && run.spare_v < 0 ? INK.over : INK.within}
        title={`Spare ${BASIS[run.basis]}`}
      />
      <Figure
        value={room.amperes === null ? "–" : amperes(room.amperes)}
        unit="A"
        name={room.amperes !== null && room.amperes < 0 ? "too many" : "more, at most"}
        title={room.amperes_until ? `until ${room.amperes_until}` : undefined}
      />
      <Figure
        value={room.metres === null ? "–" : metres(room.metres)}
        unit="m"
        name={room.metres !== null && room.metres < 0 ? "too long" : "further, at most"}
        title={room.metres_until ? `each way, until ${room.metres_until}` : undefined}
      />
      <div>
        <dt className="sr-only">verdict</dt>
        <dd className="text-xl" data-testid="verdict">
          <VerdictWord verdict={run.verdict} />
        </dd>
        <dd className="text-[13px] text-soft">{BASIS[run.basis]}</dd>
      </div>
    </dl>
  );
}

function Figure({
  value,
  unit,
  name,
  tone = "",
  title,
}: {
  value: string;
  unit: string;
  name: string;
  tone?: string;
  title?: string;
}) {
  return (
    <div className="flex flex-col-reverse" title={title}>
      <dt className="text-[13px] text-soft">{name}</dt>
      <dd className={`num text-xl font-bold ${tone}`}>
        {value} <span className="font-sans text-sm font-normal text-soft">{unit}</span>
      </dd>
    </div>
  );
}
