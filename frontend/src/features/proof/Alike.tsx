import type { Proof } from "./api";

const SIGNS = new Map<boolean | null, [string, string, string]>([
  [true, ["=", "alike", "text-slate"]],
  [false, ["≠", "not alike", "text-ochre"]],
  [null, ["·", "not known", "text-soft"]],
]);

/** The conditions of both readings compared, and what a difference does. */
export function Alike({ proof }: { proof: Proof }) {
  if (proof.likenesses.length === 0) return null;
  return (
    <section aria-label="Same conditions as before">
      <h2 className="mb-1 text-lg font-bold">Same conditions as before</h2>
      <ul className="border-b border-line">
        {proof.likenesses.map((x) => {
          const [sign, word, ink] = SIGNS.get(x.alike) ?? ["", "", ""];
          return (
            <li key={x.code} className="flex gap-2 border-t border-line py-1">
              <span role="img" aria-label={word} className={`num w-5 shrink-0 font-bold ${ink}`}>
                {sign}
              </span>
              <span>
                <b>{x.head}.</b> {x.says} <span className="text-soft">{x.effect}</span>
              </span>
            </li>
          );
        })}
      </ul>
      {proof.surfaces.length > 0 && (
        <p className="mt-1 text-[13px]">
          Temperature above the cable next to it:{" "}
          {proof.surfaces
            .map((s) => `${s.where} ${s.before || "–"} before, ${s.after || "–"} after`)
            .join("; ")}
          .
        </p>
      )}
    </section>
  );
}
