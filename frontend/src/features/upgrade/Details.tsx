import { ShieldAlert } from "lucide-react";
import { whole } from "../../format/format";
import { INK } from "../../ui/told/Verdict";
import type { Candidate } from "./api";
import { Parts } from "./Parts";
import { Relay } from "./Relay";

/** Everything that is known of one candidate. */
export function Details({ candidate }: { candidate: Candidate }) {
  const c = candidate;
  return (
    <div className="grid gap-x-8 gap-y-3 py-2 lg:grid-cols-2">
      <div className="space-y-3">
        {c.scenarios.length > 0 && (
          <table className="w-full">
            <caption className="text-left font-bold">In every scenario</caption>
            <thead className="text-left text-[13px] text-soft">
              <tr>
                <th className="font-normal">Scenario</th>
                <th className="px-2 text-right font-normal">At the load</th>
                <th className="text-right font-normal">Spare</th>
              </tr>
            </thead>
            <tbody>
              {c.scenarios.map((s) => (
                <tr key={s.name} className="border-t border-line">
                  <td className="py-0.5">{s.name}</td>
                  <td className="num px-2 text-right">
                    {s.load_v ? whole(s.load_v) : <b className="text-over">drops out</b>}
                  </td>
                  <td className={`num text-right ${s.spare_v.si < 0 ? INK.over : INK.within}`}>
                    {whole(s.spare_v)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {c.sizes.length > 0 && (
          <div>
            <h2 className="font-bold">
              Wire{" "}
              <span className="font-normal text-soft">
                {c.proven ? "· proven: no less copper holds" : "· less copper may hold"}
              </span>
            </h2>
            <ul>
              {c.sizes.map((size) => (
                <li key={size}>{size}</li>
              ))}
            </ul>
          </div>
        )}
        {c.others.length > 0 && (
          <div>
            <h2 className="font-bold">Other runs, lowest spare: before → after</h2>
            <ul>
              {c.others.map((o) => (
                <li key={o.name}>
                  {o.name}:{" "}
                  <span className="num">
                    {whole(o.before_v)} → {whole(o.after_v)}
                  </span>{" "}
                  <span className={o.after_v.si < o.before_v.si ? INK.over : INK.within}>
                    {o.after_v.si < o.before_v.si ? "worse" : "better"}
                  </span>
                </li>
              ))}
            </ul>
          </div>
        )}
        {c.protection.length > 0 && (
          <ul className="space-y-1">
            {c.protection.map((p) => (
              <li key={p.code + p.piece} className="border-l-2 border-over pl-2">
                <ShieldAlert size={14} aria-hidden className="mr-1 inline text-over" />
                {p.says} <span className="text-soft">{p.do}</span>
              </li>
            ))}
          </ul>
        )}
      </div>
      <div className="space-y-3">
        <Parts parts={c.parts} price={c.price_text} minutes={c.minutes_text} />
        {c.relay && <Relay relay={c.relay} />}
      </div>
    </div>
  );
}
