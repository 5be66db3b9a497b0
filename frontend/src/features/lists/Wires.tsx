import type { Lists } from "./api";

const STATE = { new: "", changed: "changed", stays: "stays" };

/** The wire list: each wire with its ends, its cut and what feeds it. */
export function Wires({ lists, files }: { lists: Lists; files: Record<string, string> }) {
  return (
    <section aria-label="Wire list">
      <div className="flex flex-wrap items-baseline gap-4">
        <h2 className="mr-auto font-bold">Wire list</h2>
        {Object.entries(files).map(([says, file]) => (
          <a
            key={says}
            href={file}
            download
            className="no-print inline-flex min-h-11 items-center text-slate underline lg:min-h-6"
          >
            {says}
          </a>
        ))}
      </div>
      {lists.wires.length === 0 ? (
        <p className="text-soft">No wire to list.</p>
      ) : (
        <section
          aria-label="The wires"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must scroll by keys too
          tabIndex={0}
          className="relative overflow-x-auto print:overflow-visible"
        >
          <table className="w-full min-w-[64rem] text-[14px] print:min-w-0 print:text-[9pt]">
            <thead className="text-left text-[13px] text-soft">
              <tr>
                {["No.", "From", "To", "Size", "Colour", "Cut", "Cable"].map((head) => (
                  <th key={head} scope="col" className="pr-3 font-normal">
                    {head}
                  </th>
                ))}
                <th scope="col" className="pr-3 font-normal">
                  Terminals
                </th>
                <th scope="col" className="pr-3 font-normal">
                  Fed by
                </th>
                <th scope="col" className="font-normal">
                  Label
                </th>
              </tr>
            </thead>
            <tbody>
              {lists.wires.map((w) => (
                <tr
                  key={w.wire}
                  className={`border-t border-line align-top ${w.state === "stays" ? "text-soft" : ""}`}
                >
                  <td className="num py-0.5 pr-3 text-right">{w.number}</td>
                  <td className="pr-3">{w.start}</td>
                  <td className="pr-3">{w.end}</td>
                  <td className="num pr-3 whitespace-nowrap">
                    {w.size}{" "}
                    {STATE[w.state] && <span className="font-sans">({STATE[w.state]})</span>}
                  </td>
                  <td className="pr-3">{w.colour}</td>
                  <td className="num pr-3 text-right whitespace-nowrap">{w.cut}</td>
                  <td className="pr-3">{w.cable}</td>
                  <td className="pr-3">
                    {w.start_terminal || "–"} / {w.end_terminal || "–"}
                  </td>
                  <td className="num pr-3 whitespace-nowrap">{w.fed_by}</td>
                  <td>{w.label}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
    </section>
  );
}
