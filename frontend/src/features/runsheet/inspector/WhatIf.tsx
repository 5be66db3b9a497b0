import { brief, more } from "../../../format/format";
import { useWhatIf } from "../api";
import { useDesk } from "../desk";

/** What small changes would do to the run: a size up or down, ten degrees more, one more joint. */
export function WhatIf({ piece }: { piece: string | null }) {
  const { kept, view } = useDesk();
  const would = useWhatIf(kept, view, piece);
  if (!would.data || would.data.rows.length === 0) return null;
  return (
    <table className="mt-2 w-full text-[13px]" aria-label="What if">
      <thead className="text-left text-soft">
        <tr>
          <th className="font-normal">What if</th>
          <th className="text-right font-normal">At the load</th>
          <th className="text-right font-normal">Spare of the run</th>
        </tr>
      </thead>
      <tbody>
        {would.data.rows.map((row) => (
          <tr key={row.what} className="border-t border-line">
            <td className="py-0.5 pr-2">
              {row.what} <span className="text-soft">{row.says}</span>
            </td>
            <td className="num py-0.5 text-right whitespace-nowrap">
              {row.load_v === null ? "stalls" : more(row.load_more_v)}
            </td>
            <td className="num py-0.5 text-right whitespace-nowrap">
              {row.spare_v === null ? "–" : brief(row.spare_v)}{" "}
              <span className="text-soft">
                {Math.abs(row.more_v?.si ?? 0) >= 0.0005 ? more(row.more_v) : "the same"}
              </span>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
