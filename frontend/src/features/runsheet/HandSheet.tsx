import { useState } from "react";
import { Link } from "react-router";
import type { Cell, Column, Side } from "../../api/client";
import { backWord, brief, type Figure, volts, whole } from "../../format/format";
import { OverSheet } from "../../ui/Dialog";
import { FILL, INK, Sign, VerdictWord } from "../../ui/told/Verdict";
import { Worst } from "./around/HeadLine";
import { RepairGuilty } from "./around/RepairGuilty";
import { SaysPanel } from "./around/SaysPanel";
import { waysOf } from "./around/ways";
import { passOnShow, type Spot, useDesk } from "./desk";
import { Inspector } from "./inspector/Inspector";
import { ReadingCell } from "./ledger/ReadingCell";

/** The run sheet in the hand: the same columns stood on end, one thumb wide. */
export function HandSheet() {
  const { sheet, selected, select } = useDesk();
  const { run } = sheet;
  const [feed, back] = run.sides;
  const stage: Spot["stage"] = sheet.stage === "as_found" ? "as_found" : "as_left";
  const pick = stage === "as_found" ? "found" : "left";
  const pass = run[pick];
  const [more, setMore] = useState(false);
  const spot = (red: string, black: string, name: string): Spot => ({
    stage,
    quantity: "volts",
    red,
    black,
    name,
  });
  return (
    <div className="px-3 pb-4">
      <Picks />
      <div className="flex items-baseline justify-between border-y border-line py-2">
        <p>
          <span className={`num text-2xl font-bold ${INK[run.verdict]}`}>{brief(run.spare_v)}</span>{" "}
          <span className="text-soft">V spare, {run.spare_under}</span>
        </p>
        <span data-testid="verdict">
          <VerdictWord verdict={run.verdict} className="text-lg" />
        </span>
      </div>
      <div className="space-y-2 py-2">
        <p className="font-bold">{run.verdict_says}</p>
        <RepairGuilty />
        <p className="text-[13px] text-soft">
          <Worst />
        </p>
        <Ways />
      </div>
      <p className="text-[13px] text-soft">
        {stage === "as_found" ? "Readings as found" : "Readings as left"}, with the load on. Red
        nearer the live post.
      </p>
      <Span
        name="Source, post to post"
        cell={pass.source}
        spot={spot(run.source.live.id, run.source.back.id, "source, post to post")}
        allowed={null}
        expect={run.source.volts}
      />
      <div className="flex items-center justify-between border-b border-line py-1.5">
        <span className="font-bold">Current</span>
        <span className="flex items-center gap-1">
          <ReadingCell
            big
            spot={{
              stage,
              quantity: "amperes",
              red: run.load.feed.id,
              black: run.load.back.id,
              name: "current",
            }}
            cell={pass.current}
            placeholder="clamp"
          />
          <span className="text-soft">A</span>
        </span>
      </div>
      <SideList
        title="Feed"
        side={feed}
        columns={run.columns.filter((c) => c.side === "feed")}
        pick={pick}
        spot={spot}
      />
      <div className="my-2 rounded border border-rule bg-plate px-2">
        <button
          type="button"
          className="min-h-11 w-full text-left"
          onClick={() => select(run.load.id)}
        >
          <b>{run.load.name}</b> <span className="text-[13px] text-soft">{run.load.spec}</span>
        </button>
        <Span
          name="Across the load"
          cell={pass.load}
          spot={spot(run.load.feed.id, run.load.back.id, `across ${run.load.name}`)}
          allowed={null}
          expect={run.load.volts}
        />
      </div>
      <SideList
        title={backWord().replace(/^./, (c) => c.toUpperCase())}
        side={back}
        columns={run.columns.filter((c) => c.side === "return")}
        pick={pick}
        spot={spot}
      />
      <button
        type="button"
        className="mt-3 min-h-11 w-full rounded border border-rule font-bold"
        aria-expanded={more}
        onClick={() => setMore(!more)}
      >
        {more ? "Less" : "Checks, repair and cautions"}
      </button>
      {more && (
        <div className="pt-2">
          <SaysPanel />
        </div>
      )}
      <OverSheet open={selected !== null} onClose={() => select(null)} title="Piece">
        <Inspector />
      </OverSheet>
    </div>
  );
}

/** Which run is on show, and in which scenario. */
function Picks() {
  const { sheet, go } = useDesk();
  return (
    <>
      <label className="block py-2">
        <span className="sr-only">Run</span>
        <select
          value={sheet.run.load.id}
          onChange={(e) => go({ run: e.target.value })}
          className="min-h-12 w-full rounded border border-rule bg-plate px-2 text-lg font-bold"
        >
          {sheet.runs.map((r) => (
            <option key={r.id} value={r.id}>
              {r.name} {r.on ? `· ${brief(r.spare_v)} V spare` : "· off here"}
            </option>
          ))}
        </select>
      </label>
      <label className="block pb-2">
        <span className="sr-only">Scenario</span>
        <select
          value={sheet.scenario}
          onChange={(e) => go({ scenario: e.target.value, on: undefined })}
          className="min-h-11 w-full rounded border border-rule bg-plate px-2"
        >
          {sheet.scenarios.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </select>
      </label>
    </>
  );
}

/** What can be gone to from a run. */
function Ways() {
  const { sheet } = useDesk();
  return (
    <p className="flex flex-wrap gap-x-4">
      {waysOf(sheet).map(([to, name]) => (
        <Link
          key={name}
          to={to}
          className="inline-flex min-h-11 items-center font-bold text-slate underline"
        >
          {name}
        </Link>
      ))}
    </p>
  );
}

function SideList({
  title,
  side,
  columns,
  pick,
  spot,
}: {
  title: string;
  side: Side | undefined;
  columns: Column[];
  pick: "found" | "left";
  spot: (red: string, black: string, name: string) => Spot;
}) {
  const { select } = useDesk();
  if (!side) return null;
  return (
    <section aria-label={title}>
      <Span
        strong
        name={`Whole ${title.toLowerCase()}`}
        cell={side[pick]}
        spot={spot(side.start.id, side.end.id, `whole ${title.toLowerCase()}`)}
        allowed={side.ceiling_v}
        expect={side.guessed ? null : side.predicted_v}
      />
      <ul>
        {columns.map((c) => (
          <li key={c.id}>
            <Span
              name={c.name}
              note={c.spec}
              drawn={c.undrawn ? null : c.resistance_ohm}
              cell={c[pick]}
              spot={spot(c.entry.id, c.exit.id, c.name)}
              allowed={c.allowance_v}
              expect={c.guessed ? null : c.predicted_v}
              onName={() => select(c.id)}
            />
          </li>
        ))}
      </ul>
    </section>
  );
}

/** One span: what to expect, what is allowed, how much of it is spent, and room for the reading. */
function Span({
  name,
  note = "",
  drawn = null,
  cell,
  spot,
  allowed,
  expect,
  strong = false,
  onName,
}: {
  name: string;
  note?: string;
  /** Ohms as drawn, of a single piece. */
  drawn?: Figure | null;
  cell: Cell | null;
  spot: Spot;
  allowed: Figure | null;
  /** None where it rests on what nobody has said. */
  expect: Figure | null;
  strong?: boolean;
  onName?: () => void;
}) {
  const { sheet } = useDesk();
  const pass = passOnShow(sheet);
  const verdict = cell?.verdict ?? "not_measured";
  const spent = cell?.loaded_v ?? expect;
  const share = allowed?.si && spent ? Math.min(1, spent.si / allowed.si) : 0;
  return (
    <div className={`border-b border-line py-1.5 ${strong ? "mt-2" : ""}`}>
      <div className="flex items-center justify-between gap-2">
        <div className="min-w-0">
          {onName ? (
            <button
              type="button"
              onClick={onName}
              className="min-h-11 max-w-full truncate text-left font-bold underline decoration-line underline-offset-4"
            >
              {name} <span className="font-normal text-soft">{note}</span>
            </button>
          ) : (
            <p className="font-bold">{name}</p>
          )}
          <p className="text-[13px] text-soft">
            expect <span className="num">{expect ? volts(expect) : "?"}</span>
            {allowed !== null && (
              <>
                {" "}
                · allowed <span className="num text-slate">{volts(allowed)}</span>
              </>
            )}
            {cell && cell.verdict !== "not_measured" && allowed !== null && (
              <>
                {" "}
                · <Sign verdict={verdict} />{" "}
                <span className={INK[verdict]}>
                  {verdict === "over" ? `${volts(cell.spare_v)} spare` : ""}
                </span>
              </>
            )}
          </p>
          {cell?.measured && (
            <p className="num text-[13px] text-soft">
              {drawn !== null && <>drawn {whole(drawn)} · </>}
              <b className="text-copper">measured {whole(cell.measured)}</b>
            </p>
          )}
        </div>
        <span className="flex shrink-0 items-center gap-1">
          <ReadingCell
            big
            spot={spot}
            cell={cell}
            disabled={sheet.toggled || (pass === null && sheet.stage !== "planned")}
          />
          <span className="text-soft">V</span>
        </span>
      </div>
      {allowed !== null && (
        <div
          aria-hidden
          className={`mt-1 h-1.5 overflow-hidden rounded-sm ${verdict === "over" ? FILL.over : "bg-tint"}`}
        >
          {verdict !== "over" && (
            <div
              className={
                cell?.loaded_v !== undefined && cell?.loaded_v !== null
                  ? "h-full bg-copper"
                  : "h-full border border-copper"
              }
              style={{ width: `${share * 100}%` }}
            />
          )}
        </div>
      )}
    </div>
  );
}
