import type { Schema } from "../../../api/client";
import type { RunTable } from "./api";

interface Props {
  table: RunTable;
  seen: Schema["TableRead"];
}

/** A pasted table as it was understood: each cell, and under a row what is wrong in it. */
export function Preview({ table, seen }: Props) {
  const wrongs = seen.rows.flatMap((row) =>
    Object.entries(row.cells).flatMap(([cell, { wrong }]) => (wrong ? [cell] : [])),
  );
  const columns = table.columns.filter(
    (c) => seen.columns.includes(c.cell) || wrongs.includes(c.cell),
  );
  return (
    <div className="relative max-h-[40vh] overflow-auto rounded border border-line">
      <table className="w-full text-[14px]">
        <thead className="text-left text-[13px] text-soft">
          <tr>
            {columns.map((c) => (
              <th key={c.cell} scope="col" className="px-2 py-1 font-normal">
                {c.title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {seen.rows.map((row, i) => {
            const bad = columns.filter((c) => row.cells[c.cell]?.wrong);
            return [
              // biome-ignore lint/suspicious/noArrayIndexKey: rows of a text have nothing else
              <tr key={`row ${i}`} className="border-t border-line align-top">
                {columns.map((c) => {
                  const cell = row.cells[c.cell];
                  return (
                    <td
                      key={c.cell}
                      className={`px-2 py-0.5 ${cell?.wrong ? "hatch-over font-bold" : ""}`}
                    >
                      {cell?.text || (cell?.wrong ? "missing" : "")}
                    </td>
                  );
                })}
              </tr>,
              bad.length > 0 && (
                // biome-ignore lint/suspicious/noArrayIndexKey: rows of a text have nothing else
                <tr key={`wrong ${i}`}>
                  <td colSpan={columns.length} className="px-2 pb-1 text-[13px] text-over">
                    {bad.map((c) => `${c.title}: ${row.cells[c.cell]?.wrong}`).join(" ")}
                  </td>
                </tr>
              ),
            ];
          })}
        </tbody>
      </table>
      {seen.unknown.length > 0 && (
        <p className="border-t border-line p-2 text-[13px] text-soft">
          Not used: {seen.unknown.join(", ")}.
        </p>
      )}
    </div>
  );
}
