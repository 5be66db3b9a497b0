import { Fragment, useState } from "react";
import { sentence } from "../../../api/client";
import {
  backWord,
  bare,
  brief,
  type Figure,
  lengthUnit,
  marked,
  volts,
  whole,
} from "../../../format/format";
import { Button } from "../../../ui/Button";
import { OverSheet } from "../../../ui/Dialog";
import { useSay } from "../../../ui/told/Notices";
import { FILL, INK, VerdictWord } from "../../../ui/told/Verdict";
import { Working } from "../../../ui/told/Working";
import { useDetails } from "../../craft/api";
import { useLimitComparison } from "../api";
import { useDesk } from "../desk";

/** The run under every limit set there is, side by side: what each leaves to spare, and why it exists. */
export function LimitComparison({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { kept, view } = useDesk();
  const found = useLimitComparison(kept, view, open);
  const details = useDetails(kept.job);
  const say = useSay();
  const [shown, setShown] = useState<string | null>(null);
  const use = (id: string) => {
    const before = kept.limit_set_id;
    details.mutate(
      { limit_set: id },
      {
        onSuccess: () =>
          say("Limit set changed.", {
            act: { label: "Undo", run: () => details.mutate({ limit_set: before }) },
          }),
        onError: (error) => say(sentence(error), { bad: true }),
      },
    );
  };
  return (
    <OverSheet
      open={open}
      onClose={onClose}
      wide
      title={`${kept.run.load.name} under every limit set`}
      says="Good fitters disagree about limits, with reasons. Same calculated voltage drops, each set's limits."
    >
      {found.isError && (
        <p role="alert" className="text-over">
          {sentence(found.error)}
        </p>
      )}
      {found.data && (
        <>
          <p className="mb-2">
            {found.data.feed_v === null ? (
              "Not calculated: part of this run, or its load, is not known yet."
            ) : (
              <>
                Calculated: feed <b className="num">{whole(found.data.feed_v)}</b>, {backWord()}{" "}
                <b className="num">{whole(found.data.return_v)}</b>.
              </>
            )}
          </p>
          <div className="overflow-x-auto">
            <table className="w-full">
              <thead className="text-left text-[13px] text-soft">
                <tr>
                  <th className="font-normal">Limit set</th>
                  <th className="px-2 text-right font-normal">Feed</th>
                  <th className="px-2 text-right font-normal">{backWord()}</th>
                  <th className="px-2 text-right font-normal">Both</th>
                  <th className="px-2 text-right font-normal">Spare</th>
                  <th className="px-2 text-right font-normal">More current, A</th>
                  <th className="px-2 text-right font-normal">{lengthUnit()} more</th>
                  <th>
                    <span className="sr-only">use it</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {found.data.sets.map((s) => (
                  <Fragment key={s.id}>
                    <tr className={`border-t border-line align-top ${s.in_use ? "bg-tint" : ""}`}>
                      <td className="py-1.5 pr-2">
                        <button
                          type="button"
                          aria-expanded={shown === s.id}
                          className="text-left font-bold underline decoration-dotted"
                          onClick={() => setShown(shown === s.id ? null : s.id)}
                        >
                          {s.name}
                        </button>
                        <span className="block text-[13px] text-soft">{s.why}</span>
                        {s.note && <span className="block text-[12px] text-soft">{s.note}</span>}
                        {s.over.length > 0 && (
                          <span className="block text-[13px] text-over">
                            over the limit for one piece: {s.over.join(", ")}
                          </span>
                        )}
                      </td>
                      <Ceiling value={s.feed_ceiling_v} />
                      <Ceiling value={s.return_ceiling_v} />
                      <Ceiling value={s.round_trip_ceiling_v} />
                      <td className={`px-2 py-1.5 text-right ${FILL[s.verdict]}`}>
                        <b className={`num ${INK[s.verdict]}`}>{brief(s.spare_v)}</b>
                        {s.spare_share && (
                          <span className="block text-[12px] whitespace-nowrap text-soft">
                            {whole(s.spare_share)} {s.under}
                          </span>
                        )}
                        <span className="block">
                          <VerdictWord
                            verdict={s.verdict}
                            className="text-[13px] whitespace-nowrap"
                          />
                        </span>
                      </td>
                      <td className="num px-2 py-1.5 text-right">{bare(s.amperes) || "–"}</td>
                      <td className="num px-2 py-1.5 text-right">{bare(s.metres) || "–"}</td>
                      <td className="py-1 text-right">
                        {s.in_use ? (
                          <span className="text-[13px] text-slate">in use</span>
                        ) : (
                          <Button onClick={() => use(s.id)}>Use</Button>
                        )}
                      </td>
                    </tr>
                    {shown === s.id && (
                      <tr>
                        <td colSpan={8} className="pb-2">
                          <Working lines={s.working} />
                        </td>
                      </tr>
                    )}
                  </Fragment>
                ))}
              </tbody>
            </table>
          </div>
          <p className="mt-2 text-[13px] text-soft">
            Values for {marked(kept.nominal_v)} V nominal. The code in force where the craft is used
            comes first.
          </p>
        </>
      )}
    </OverSheet>
  );
}

function Ceiling({ value }: { value: Figure | null }) {
  return <td className="num px-2 py-1.5 text-right">{value === null ? "–" : volts(value)}</td>;
}
