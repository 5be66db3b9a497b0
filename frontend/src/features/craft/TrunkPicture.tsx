import { Link } from "react-router";
import { bare, sideWord } from "../../format/format";
import { useWidth } from "../../ui/useWidth";
import { about, Why } from "../../ui/Why";
import type { Craft } from "./api";
import { layTrunk, lost } from "./trunk";

/** Who loads which shared piece: thickness is current, shade is volts lost so far. */
export function TrunkPicture({ craft }: { craft: Craft }) {
  const [measure, width] = useWidth();
  const picture = width > 0 ? layTrunk(craft, width) : null;
  const names = new Map(craft.runs.map((r) => [r.id, r.name]));
  const scenario = craft.scenarios.find((s) => s.id === craft.scenario)?.name;
  return (
    <section aria-label="Current through the shared wiring">
      <h2 className="font-bold">Current through the shared wiring</h2>
      <p className="mb-1 text-[13px] text-soft">
        {scenario}: feed on the left, {sideWord("return")} on the right. Thicker = more current,
        darker = more voltage lost.
      </p>
      <div ref={measure}>
        {picture && (
          <svg
            width={width}
            height={picture.height}
            role="img"
            aria-label="Shared pieces and the loads behind them; the same as a table below"
            className="block"
          >
            {picture.bands.map(({ stretch, path, shade }) => (
              <path
                key={`${stretch.side} ${stretch.pieces.join()}`}
                d={path}
                fill={`color-mix(in srgb, var(--copper) ${Math.round(12 + shade * 88)}%, var(--canvas))`}
                stroke="var(--copper)"
                strokeWidth="0.75"
              >
                <title>{`${stretch.name}: ${bare(stretch.current_a)} A, loses ${lost(stretch)}`}</title>
              </path>
            ))}
            {picture.bands.map((band) => (
              <BandLabel key={`${band.stretch.side} ${band.stretch.pieces.join()}`} {...band} />
            ))}
            {picture.rows.map((row) => (
              <text
                key={row.id}
                x={width / 2}
                y={row.y}
                textAnchor="middle"
                dominantBaseline="central"
                className="fill-ink text-[12px] font-bold"
              >
                {short(names.get(row.id) ?? row.id, picture.middle[1] - picture.middle[0])}
              </text>
            ))}
          </svg>
        )}
      </div>
      <details className="mt-1">
        <summary className="min-h-11 py-3 text-[13px] text-soft lg:min-h-8 lg:py-1">
          as a table
        </summary>
        <table className="w-full text-[13px]">
          <thead className="text-left text-soft">
            <tr>
              <th className="font-normal">Pieces</th>
              <th className="font-normal">Loads</th>
              <th className="text-right font-normal">A</th>
              <th className="text-right font-normal">Loses</th>
            </tr>
          </thead>
          <tbody>
            {craft.stretches.map((s) => (
              <tr key={`${s.side} ${s.pieces.join()}`} className="border-t border-line align-top">
                <td className="py-0.5 pr-2">
                  {s.name} <span className="text-soft">({sideWord(s.side)})</span>
                </td>
                <td className="py-0.5 pr-2">
                  {s.loads.map((id, i) => (
                    <span key={id}>
                      {i > 0 && ", "}
                      <Link to={`/jobs/${craft.job}?run=${id}`} className="underline">
                        {names.get(id) ?? id}
                      </Link>
                    </span>
                  ))}
                </td>
                <td className="num py-0.5 text-right">
                  <Why title={s.name} lines={about(s.working, "current")} stop>
                    {bare(s.current_a)}
                  </Why>
                </td>
                <td className="num py-0.5 text-right whitespace-nowrap">
                  <Why title={s.name} lines={about(s.working, "drop")} stop>
                    {lost(s)}
                  </Why>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </details>
    </section>
  );
}

/** A name that fits into so many pixels. */
function short(name: string, pixels: number): string {
  const most = Math.floor(pixels / 6.6);
  return name.length > most ? `${name.slice(0, most - 1)}…` : name;
}

type Band = NonNullable<ReturnType<typeof layTrunk>>["bands"][number];

/** What a band carries and loses, where there is room for it. */
function BandLabel({ stretch, label }: Band) {
  if (!label) return null;
  const [carries, loses] = [`${bare(stretch.current_a)} A`, lost(stretch)];
  return (
    <text
      x={label.x}
      y={label.y}
      textAnchor="middle"
      dominantBaseline="central"
      className="num fill-ink text-[11px]"
      stroke="var(--canvas)"
      strokeWidth="3"
      paintOrder="stroke"
    >
      {label.lines === 1 ? (
        `${carries} ${loses}`
      ) : (
        <>
          <tspan x={label.x} dy="-0.6em">
            {carries}
          </tspan>
          <tspan x={label.x} dy="1.2em">
            {loses}
          </tspan>
        </>
      )}
    </text>
  );
}
