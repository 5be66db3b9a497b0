import { Cautions } from "../../../ui/told/Cautions";
import { Protection } from "../../../ui/told/Protection";
import { TypedWrong } from "../../../ui/told/TypedWrong";
import { passOnShow, useDesk } from "../desk";
import { AsMeasured } from "./AsMeasured";
import { RepairGuilty } from "./RepairGuilty";

/** What the readings say, what is planned, and the cautions that belong to it. */
export function SaysPanel() {
  const { sheet, takeBack } = useDesk();
  const { run } = sheet;
  const pass = passOnShow(sheet);
  const shown = pass ? run[pass] : null;
  const later = sheet.stages.find(
    (s) => s.stage === (sheet.stage === "as_left" ? "as_left" : "planned"),
  );
  return (
    <section aria-label="What this says" data-part="says" className="space-y-2">
      {sheet.trouble && (
        <p role="alert" className="hatch-over rounded p-2 font-bold">
          {sheet.trouble}
        </p>
      )}
      <p className="text-[15px] font-bold" data-testid="says">
        {run.verdict_says}
      </p>
      <RepairGuilty />
      {run.load.works && (
        <p className={run.load.drops_out ? "text-over" : "text-soft"}>{run.load.works}</p>
      )}
      {run.sides.map((s) => s.eaten && <p key={s.side}>{s.eaten}</p>)}
      {sheet.notices.map((n) => (
        <p key={n}>{n}</p>
      ))}
      {sheet.toggled && (
        <p className="text-soft">
          You have switched loads by hand. Reset to the scenario to enter readings.
        </p>
      )}
      {shown && shown.findings.length > 0 && (
        <ul className="space-y-1.5">
          {shown.findings.map((f) => (
            <li key={f.says + f.readings.join()} className="border-l-2 border-ochre pl-2">
              {f.says} <span className="text-soft">{f.do}</span>
            </li>
          ))}
        </ul>
      )}
      {shown && <TypedWrong doubted={shown.doubted} onWrong={takeBack} />}
      <AsMeasured />
      <Protection
        job={sheet.job}
        revision={sheet.revision}
        stage={sheet.stage}
        run={sheet.run.load.id}
      />
      {later && later.changes.length > 0 && (
        <div>
          <h3 className="text-[13px] text-soft">
            {sheet.stage === "as_left" ? "What was done" : "Planned repair"}
          </h3>
          <ul className="list-inside list-disc">
            {later.changes.map((c) => (
              <li key={c}>{c}</li>
            ))}
          </ul>
        </div>
      )}
      <Cautions cautions={sheet.cautions} />
    </section>
  );
}
