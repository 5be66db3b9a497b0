import { useQueryClient } from "@tanstack/react-query";
import { type Schema, sentence } from "../../api/client";
import { keys } from "../../api/keys";
import { whole } from "../../format/format";
import { Button } from "../../ui/Button";
import { Page } from "../../ui/Page";
import { useKeepRows, useLearned } from "./api";

const FEW = 3;
type Learned = Schema["LearnedOut"];

/** What this workshop's accepted readings say of good pieces; any of it can be taken into the tables. */
export function LearnedPage() {
  const learned = useLearned();
  return (
    <Page
      title="Learned here"
      back={["/tables", "Tables"]}
      heading="Learned here"
      className="max-w-5xl space-y-6"
    >
      <p className="text-soft">
        From every piece measured on its own in a run within limits. An offer needs at least five
        readings from two jobs. Nothing changes until you accept it.
      </p>
      {learned.isPending && <p className="text-soft">Adding it up …</p>}
      {learned.isError && (
        <p role="alert" className="text-over">
          {sentence(learned.error)}
        </p>
      )}
      {learned.data && <Opened table={learned.data} />}
    </Page>
  );
}

function Opened({ table }: { table: Schema["LearnedTable"] }) {
  if (table.pieces.length + table.spreads.length + table.culprits.length === 0) {
    return (
      <p className="rounded border border-dashed border-rule p-6 text-center">
        Nothing yet: no run was read piece by piece and accepted.
      </p>
    );
  }
  return (
    <>
      <Rows
        title="Good pieces"
        says="Median and middle two-thirds. Accepted, they become the starting value for pieces with no figure of their own."
        table="fixed_pieces"
        rows={table.pieces}
      />
      <Rows
        title="How far real pieces differ from the tables"
        says="The uncertainty used before anything is measured."
        table="spreads"
        rows={table.spreads}
        spread
      />
      {table.culprits.length > 0 && (
        <section aria-label="Found at fault">
          <h2 className="mb-1 text-lg font-bold">Found at fault</h2>
          <ul className="border-b border-line">
            {table.culprits.map((c) => (
              <li
                key={c.name + c.place}
                className="flex justify-between border-t border-line py-0.5"
              >
                <span>
                  {c.name}, {c.place}
                </span>
                <span>
                  <span className="num">{c.jobs}</span> {c.jobs === 1 ? "job" : "jobs"}
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}

function Rows({
  title,
  says,
  table,
  rows,
  spread = false,
}: {
  title: string;
  says: string;
  table: "fixed_pieces" | "spreads";
  rows: Learned[];
  spread?: boolean;
}) {
  const keep = useKeepRows(table);
  const queries = useQueryClient();
  if (rows.length === 0) return null;
  const take = (row: Learned) =>
    row.row &&
    keep.mutate(
      {
        rows: [{ was: null, cells: row.row }],
        gone: [],
        said: `${nameOf(row)}: the tables have it now.`,
      },
      { onSettled: () => queries.invalidateQueries({ queryKey: keys.learned }) },
    );
  return (
    <section aria-label={title}>
      <h2 className="text-lg font-bold">{title}</h2>
      <p className="mb-1 text-[13px] text-soft">{says}</p>
      <div className="overflow-x-auto">
        <table className="w-full">
          <thead className="text-left text-[13px] text-soft">
            <tr>
              <th className="font-normal">Kind, place</th>
              <th className="pl-2 text-right font-normal">Readings</th>
              <th className="pl-2 text-right font-normal">Read here</th>
              <th className="pl-4 font-normal">The tables say</th>
              <th className="pl-2 font-normal">
                <span className="sr-only">take it</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={nameOf(row)} className="border-t border-line align-top">
                <td className="py-1">{nameOf(row)}</td>
                <td className="whitespace-nowrap py-1 pl-2 text-right">
                  <span className="num">{row.count}</span>
                  <span className="text-soft">
                    {" "}
                    of {row.jobs} {row.jobs === 1 ? "job" : "jobs"}
                  </span>
                </td>
                <td className="num whitespace-nowrap py-1 pl-2 text-right">
                  {!spread ? whole(row.median) : row.count < FEW ? "–" : `± ${row.spread}`}
                  {!spread && row.count > 1 && (
                    <span className="block text-[13px] text-soft">
                      {whole(row.low)} to {whole(row.high)}
                    </span>
                  )}
                </td>
                <td className="py-1 pl-4 text-soft">
                  {row.held || "–"}
                  {row.offered && !row.taken && (
                    <span className="block text-ink">would be: {row.offered}</span>
                  )}
                </td>
                <td className="py-1 pl-2 text-right">
                  {row.taken ? (
                    <span className="text-soft">taken</span>
                  ) : row.row ? (
                    <Button disabled={keep.isPending} onClick={() => take(row)}>
                      Take it
                    </Button>
                  ) : (
                    <span className="text-[13px] text-soft">
                      {row.place ? "for comparison" : "too few yet"}
                    </span>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}

function nameOf(row: Learned): string {
  return [row.style || row.name, row.style ? row.name.toLowerCase() : "", row.place]
    .filter(Boolean)
    .join(", ");
}
