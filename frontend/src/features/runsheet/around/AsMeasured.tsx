import { bare, whole } from "../../../format/format";
import { INK } from "../../../ui/told/Verdict";
import { useDesk } from "../desk";

/** What the load gets in every scenario with the craft as measured, and under which conditions was read. */
export function AsMeasured() {
  const { sheet } = useDesk();
  const found = sheet.run.measured;
  if (!found || (found.scenarios.length === 0 && found.moments.length === 0)) return null;
  // What was read leaves room: the scenarios tell what is sure.
  const bound = found.stage === "planned" ? "" : ", at least";
  return (
    <section aria-label="As measured" data-testid="as-measured">
      <h3 className="text-[13px] text-soft">
        {found.stage === "planned" ? "From the readings on what you keep" : "As measured"}:{" "}
        {sheet.run.load.name}
        {found.scenarios.length > 0 && " in every scenario"}
        {found.amps !== null && (
          <>
            , {bare(found.amps)} A ± {bare(found.amps_doubt)} read
          </>
        )}
      </h3>
      {found.scenarios.length > 0 && (
        <table className="w-full">
          <thead className="text-left text-[12px] text-soft">
            <tr>
              <th className="font-normal">Scenario</th>
              <th className="px-2 text-right font-normal">At the load{bound}</th>
              <th className="px-2 text-right font-normal">Spare{bound}</th>
            </tr>
          </thead>
          <tbody>
            {found.scenarios.map((s) => (
              <tr key={s.scenario} className="border-t border-line">
                <td className="py-0.5">
                  {s.name}
                  {s.name === found.worst && (
                    <span className="text-[12px] text-soft"> · worst</span>
                  )}
                </td>
                <td className="num px-2 text-right">
                  {s.load_v === null ? <b className="text-over">drops out</b> : whole(s.load_v)}
                </td>
                <td
                  className={`num px-2 text-right ${(s.spare_v?.si ?? 0) < 0 ? INK.over : INK.within}`}
                >
                  {s.spare_v === null ? "–" : whole(s.spare_v)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {found.moments.length > 0 && (
        <p className="mt-1 text-[12px] text-soft">
          Readings taken with: {found.moments.map((m) => m).join("; ")}
        </p>
      )}
    </section>
  );
}
