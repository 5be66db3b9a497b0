import { whole } from "../../format/format";
import { INK, VerdictWord } from "../../ui/told/Verdict";
import type { Proof } from "./api";

/** Every point that proves the run: before, what the plan expects, after. */
export function Readings({ proof }: { proof: Proof }) {
  return (
    <section aria-label="Before and after">
      <h2 className="mb-1 text-lg font-bold">Before and after</h2>
      <div className="overflow-x-auto">
        <table className="w-full">
          <thead className="text-right text-[13px] text-soft">
            <tr>
              <th className="text-left font-normal">Red lead → black lead</th>
              <th className="pl-2 font-normal">Before</th>
              <th className="pl-2 font-normal">Expected</th>
              <th className="pl-2 font-normal">After</th>
              <th className="hidden pl-2 font-normal sm:table-cell">Allowed</th>
            </tr>
          </thead>
          <tbody>
            {proof.readings.map((r) => (
              <tr key={r.id} className="border-t border-line align-top">
                <td className="py-0.5">
                  <b>{r.what}</b>
                  <span className="block text-[13px] text-soft">
                    {r.red} → {r.black}
                  </span>
                  {r.taken && <span className="block text-[12px] text-soft">{r.taken}</span>}
                </td>
                <td
                  className={`num whitespace-nowrap py-0.5 pl-2 text-right ${INK[r.before_verdict]}`}
                >
                  {whole(r.before)}
                  {r.before_verdict !== "not_measured" && (
                    <VerdictWord
                      verdict={r.before_verdict}
                      className="block font-sans text-[12px]"
                    />
                  )}
                </td>
                <td className="num whitespace-nowrap py-0.5 pl-2 text-right text-soft">
                  {whole(r.expected)}
                </td>
                <td
                  className={`num whitespace-nowrap py-0.5 pl-2 text-right font-bold ${INK[r.after_verdict]}`}
                >
                  {whole(r.after)}
                  {r.after_verdict !== "not_measured" && (
                    <VerdictWord
                      verdict={r.after_verdict}
                      className="block font-sans text-[12px]"
                    />
                  )}
                </td>
                <td className="num hidden whitespace-nowrap py-0.5 pl-2 text-right text-soft sm:table-cell">
                  {whole(r.allowed)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {proof.readings.some(
        (r) => r.before_known === "worked_out" || r.after_known === "worked_out",
      ) && (
        <p className="mt-1 text-[13px] text-soft">
          Figures with ± were not read there: they are worked out from other readings.
        </p>
      )}
    </section>
  );
}

/** Every piece on the way, as measured where least is spare. */
export function Pieces({ proof }: { proof: Proof }) {
  if (!proof.started) return null;
  return (
    <details>
      <summary className="min-h-11 py-3 font-bold lg:min-h-8 lg:py-1.5">
        Piece by piece, {proof.scenario}
      </summary>
      <div className="overflow-x-auto">
        <table className="w-full">
          <thead className="text-right text-[13px] text-soft">
            <tr>
              <th className="text-left font-normal">Piece</th>
              <th className="pl-2 font-normal">Before</th>
              <th className="pl-2 font-normal">After</th>
            </tr>
          </thead>
          <caption className="caption-bottom pt-1 text-left text-[13px] text-soft">
            Worked out from the readings at full-load current, unless it says calculated.
          </caption>
          <tbody>
            {proof.pieces.map((p) => (
              <tr key={p.id} className="border-t border-line align-top">
                <td className="py-0.5">
                  {p.worked_on ? <b>{p.name}, worked on</b> : p.name}
                  {p.known === "predicted" && (
                    <span className="block text-[13px] text-soft">calculated, not read</span>
                  )}
                </td>
                <td className="num whitespace-nowrap py-0.5 pl-2 text-right">
                  {whole(p.before_v)}
                  <span className="block text-[13px] text-soft">{whole(p.before_ohm)}</span>
                </td>
                <td className="num whitespace-nowrap py-0.5 pl-2 text-right">
                  {whole(p.after_v)}
                  <span className="block text-[13px] text-soft">{whole(p.after_ohm)}</span>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </details>
  );
}
