import { Link } from "react-router";
import type { Lists } from "./api";

/** The buying list: each thing once, with its price and what it comes to. */
export function Buying({ lists, file }: { lists: Lists; file: string }) {
  return (
    <section aria-label="Buying list" className="max-w-4xl">
      <div className="flex flex-wrap items-baseline gap-4">
        <h2 className="mr-auto font-bold">Buying list</h2>
        <a
          href={file}
          download
          className="no-print inline-flex min-h-11 items-center text-slate underline lg:min-h-6"
        >
          As CSV
        </a>
      </div>
      {lists.buying.length === 0 ? (
        <p className="text-soft">Nothing to buy.</p>
      ) : (
        <table className="w-full print:text-[9pt]">
          <thead className="text-left text-[13px] text-soft">
            <tr>
              <th scope="col" className="font-normal">
                What
              </th>
              {["Amount", "Each", "Together"].map((head) => (
                <th key={head} scope="col" className="pl-3 text-right font-normal">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {lists.buying.map((b) => (
              <tr key={b.what} className="border-t border-line">
                <td className="py-0.5">{b.what}</td>
                <td className="num pl-3 text-right">{b.amount}</td>
                <td className="num pl-3 text-right whitespace-nowrap">{b.each}</td>
                <td className="num pl-3 text-right whitespace-nowrap">{b.price}</td>
              </tr>
            ))}
          </tbody>
          <tfoot>
            <tr className="border-t-2 border-rule font-bold">
              <td className="py-1">
                Together{lists.prices_of && `, prices of ${lists.prices_of}`}
              </td>
              <td />
              <td />
              <td className="num pl-3 text-right whitespace-nowrap">{lists.together}</td>
            </tr>
          </tfoot>
        </table>
      )}
      <p className="mt-1 text-[13px] text-soft">
        {lists.unpriced > 0 && `${lists.unpriced} of these have no price and are not in it. `}
        Work {lists.work}, by the minutes in the table of parts. {lists.cost}{" "}
        <Link to="/tables" className="no-print text-slate underline">
          Prices are yours to set
        </Link>
        <span className="no-print">
          ; the currency, the price of an hour and the reels are in the settings.
        </span>
      </p>
    </section>
  );
}
