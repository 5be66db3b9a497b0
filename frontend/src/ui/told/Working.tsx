import type { Schema } from "../../api/client";

/** A formula that breaks between its terms, never between a figure and its unit. */
const held = (formula: string) => formula.replace(/(\d) (?=[VAWmΩ])/g, "$1\u00a0");

/** Where numbers come from: what, how it was worked out, what came of it, who says so. */
export function Working({ lines }: { lines: Schema["WorkingLine"][] }) {
  return (
    <table className="w-full text-[13px]" aria-label="Working">
      <tbody>
        {lines.map((line) => (
          <tr key={line.label} className="border-t border-line align-top">
            <th
              scope="row"
              className="py-0.5 pr-3 text-left font-normal whitespace-nowrap text-soft"
            >
              {line.label}
            </th>
            <td className="py-0.5 pr-3">
              <span className="num">{held(line.formula)}</span>
              {line.source && <span className="block text-[12px] text-soft">{line.source}</span>}
            </td>
            <td className="num py-0.5 text-right font-bold whitespace-nowrap">{line.result}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
