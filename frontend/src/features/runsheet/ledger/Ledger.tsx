import type { ReactNode } from "react";
import type { Cell, Column, Side, Verdict } from "../../../api/client";
import { backWord, bare, type Figure, volts, voltUnit } from "../../../format/format";
import { FILL, INK, Sign } from "../../../ui/told/Verdict";
import { about, Why } from "../../../ui/Why";
import { useWalk } from "../../walk/api";
import { passOnShow, type Spot, useDesk } from "../desk";
import { type Geometry, LABEL, LOAD, SOURCE, TOTAL } from "./geometry";
import { arrowsFrom } from "./keys";
import { PieceHeads } from "./PieceHeads";
import { ReadingCell } from "./ReadingCell";
import { SpendChart } from "./SpendChart";

/** The run sheet's table: pieces as columns, the spend chart on them, the ledger rows below. */
export function Ledger({ geometry }: { geometry: Geometry }) {
  const { sheet } = useDesk();
  const { feed, back, piece } = geometry;
  const widths = [
    LABEL,
    SOURCE,
    ...feed.map(() => piece),
    TOTAL,
    LOAD,
    TOTAL,
    ...back.map(() => piece),
  ];
  return (
    <table
      data-narrow={geometry.narrow || undefined}
      className="group table-fixed border-collapse"
      style={{ width: geometry.width }}
    >
      <caption className="sr-only">
        {sheet.run.load.name}: pieces in the order the current passes, with what each may drop and
        does
      </caption>
      <colgroup>
        {widths.map((width, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: columns have no identity but their place
          <col key={i} style={{ width }} />
        ))}
      </colgroup>
      <PieceHeads geometry={geometry} />
      <tbody>
        <tr>
          <RowHead>
            <Legend />
          </RowHead>
          <td colSpan={widths.length - 1} className="relative p-0">
            <div
              aria-hidden
              className="absolute inset-y-0 border-x border-rule bg-plate"
              style={{ left: geometry.plate, width: 2 * TOTAL + LOAD }}
            />
            <div className="relative">
              <SpendChart sheet={sheet} geometry={geometry} height={172} />
            </div>
          </td>
        </tr>
        <Row
          geometry={geometry}
          name="current"
          row={-4}
          unit="A"
          why={["current"]}
          piece={(c) =>
            c.guessed && !c.undrawn ? UNSAID : sheet.run.load.unknown ? UNSAID : bare(c.current_a)
          }
          load={sheet.run.load.unknown ? UNSAID : bare(sheet.run.load.current_a)}
          soft
        />
        <Row
          geometry={geometry}
          name="resistance"
          row={-3}
          unit="mΩ"
          why={["resistance"]}
          piece={(c) => <Ohms column={c} />}
          soft
        />
        <Row
          geometry={geometry}
          name="allowance"
          row={-2}
          unit={voltUnit()}
          why={["allowance"]}
          tone="text-slate"
          piece={(c) => volts(c.allowance_v)}
          side={(s) => volts(s.ceiling_v)}
        />
        <Row
          geometry={geometry}
          name="calculated"
          row={-1}
          unit={voltUnit()}
          why={["predicted", "resistance", "current"]}
          source={volts(sheet.run.source.volts)}
          piece={(c) => (c.guessed ? UNSAID : volts(c.predicted_v))}
          side={(s) => (s.guessed ? UNSAID : volts(s.predicted_v))}
          load={sheet.run.load.guessed ? UNSAID : volts(sheet.run.load.volts)}
        />
        <ReadingRow geometry={geometry} stage="as_found" row={0} />
        <ReadingRow geometry={geometry} stage="as_left" row={1} />
        <SpareRow geometry={geometry} />
        <SuspicionRow geometry={geometry} />
      </tbody>
    </table>
  );
}

/** Stands for a figure that rests on what nobody has said. */
const UNSAID = "?";

/** A piece's resistance as drawn, and as measured where it was. */
function Ohms({ column }: { column: Column }) {
  const { sheet } = useDesk();
  const pass = passOnShow(sheet);
  const cell = pass ? column[pass] : null;
  const drawn = column.undrawn ? UNSAID : bare(column.resistance_ohm, "mΩ");
  if (!cell?.measured) return drawn;
  return (
    <>
      {drawn}
      <span className="block text-[12px] leading-tight font-bold text-copper">
        <span className="sr-only">measured </span>
        {bare(cell.measured, "mΩ")}
      </span>
    </>
  );
}

/** What the lines and fills of the chart mean. */
function Legend() {
  const rows: [string, string][] = [
    ["border-t-[3px] border-copper", "measured"],
    ["border-t-2 border-dotted border-copper", "calculated"],
    ["border-t-2 border-dashed border-slate", "allowance"],
    ["border-t-2 border-ink", "limit"],
    ["h-2.5 bg-tint", "spare"],
    ["h-2.5 border border-unknown", "not measured"],
  ];
  return (
    <span className="block pt-1 text-[12px] leading-tight text-soft">
      <span className="mb-1 block text-[14px] text-ink">voltage drop so far</span>
      {rows.map(([mark, word]) => (
        <span key={word} className="flex items-center gap-1.5">
          <span aria-hidden className={`inline-block w-4 ${mark}`} /> {word}
        </span>
      ))}
    </span>
  );
}

function RowHead({ children, bold = false }: { children: ReactNode; bold?: boolean }) {
  return (
    <th
      scope="row"
      className={`sticky left-0 z-10 bg-canvas pr-2 text-left ${bold ? "font-bold" : "font-normal"}`}
    >
      {children}
    </th>
  );
}

interface RowProps {
  geometry: Geometry;
  name: string;
  unit: string;
  piece: (c: Column) => ReactNode;
  side?: (s: Side) => ReactNode;
  source?: ReactNode;
  load?: ReactNode;
  tone?: string;
  soft?: boolean;
  /** Its place above (negative) or below the two rows of readings, for the arrow keys. */
  row: number;
  /** Which lines of a piece's working its number in this row is about. */
  why: string[];
}

function Row({
  geometry,
  name,
  unit,
  piece,
  side,
  source,
  load,
  tone = "",
  soft = false,
  row,
  why,
}: RowProps) {
  const { sheet } = useDesk();
  const [feed, back] = sheet.run.sides;
  const ink = soft ? "text-soft" : tone;
  const place = (column: number) => ({
    at: `${row},${column}`,
    onKeyDown: arrowsFrom([row, column]),
    className: "w-full text-right",
  });
  const pieceFigure = (c: Column, column: number) => (
    <Cells key={c.id} beside={c.beside}>
      <Why title={`${c.name}: ${name}`} lines={about(c.working, ...why)} {...place(column)}>
        {piece(c)}
      </Why>
    </Cells>
  );
  const ofRun = (shown: ReactNode, line: string, column: number) => (
    <Why
      title={`${sheet.run.load.name}: ${name}`}
      lines={about(sheet.run.working, line, "round_trip")}
      {...place(column)}
    >
      {shown}
    </Why>
  );
  // As the readings count their cells: the clamp is 0, the source 1.
  const first = 2;
  const middle = first + geometry.feed.length;
  return (
    <tr className={`border-t border-line ${ink}`}>
      <RowHead>
        {name} <span className="text-soft">{unit}</span>
      </RowHead>
      <Cells>{source}</Cells>
      {geometry.feed.map((c, i) => pieceFigure(c, first + i))}
      <Cells plate="left">{feed && side && ofRun(side(feed), "feed", middle)}</Cells>
      <Cells plate="middle">{load && ofRun(load, "load_v", middle + 1)}</Cells>
      <Cells plate="right">{back && side && ofRun(side(back), "return", middle + 2)}</Cells>
      {geometry.back.map((c, i) => pieceFigure(c, middle + 3 + i))}
    </tr>
  );
}

const EDGE = { left: "border-l bg-plate", middle: "bg-plate", right: "border-r bg-plate" };

function Cells({
  children,
  plate,
  beside = false,
  className = "",
}: {
  children?: ReactNode;
  plate?: "left" | "middle" | "right";
  beside?: boolean;
  className?: string;
}) {
  return (
    <td
      className={`num h-[26px] border-rule px-1 pr-2 text-right text-[13px] whitespace-nowrap group-data-narrow:px-0 group-data-narrow:pr-1 group-data-narrow:text-[12px] ${plate ? EDGE[plate] : ""} ${beside ? "italic" : ""} ${className}`}
    >
      {children}
    </td>
  );
}

/** The readings of one pass, typed in place. */
function ReadingRow({
  geometry,
  stage,
  row,
}: {
  geometry: Geometry;
  stage: Spot["stage"];
  row: number;
}) {
  const { sheet } = useDesk();
  const { run } = sheet;
  const pick = stage === "as_found" ? "found" : "left";
  const pass = run[pick];
  const closed = sheet.toggled || (stage === "as_found" && sheet.stage === "as_left");
  const [feed, back] = run.sides;
  const active = passOnShow(sheet) === pick;
  let column = 0;
  const spot = (red: string, black: string, name: string): Spot => ({
    stage,
    quantity: "volts",
    red,
    black,
    name,
  });
  const cell = (
    key: string,
    where: Spot,
    held: Cell | null,
    plate?: "left" | "middle" | "right",
  ) => {
    column += 1;
    return (
      <td key={key} className={`h-[28px] border-rule px-0.5 ${plate ? EDGE[plate] : ""}`}>
        <ReadingCell spot={where} cell={held} at={[row, column]} disabled={closed} />
      </td>
    );
  };
  const pieceCell = (c: Column) => cell(c.id, spot(c.entry.id, c.exit.id, c.name), c[pick]);
  const { source, load } = run;
  return (
    <tr className="border-t border-line">
      <RowHead bold={active}>
        <span className="flex items-center justify-between gap-1 text-[13px] whitespace-nowrap">
          <span>{stage === "as_found" ? "as found" : "as left"}</span>
          <span className="flex w-[62px] items-center" title="Current by clamp or in series">
            <ReadingCell
              spot={{
                stage,
                quantity: "amperes",
                red: load.feed.id,
                black: load.back.id,
                name: "current",
              }}
              cell={pass.current}
              at={[row, 0]}
              disabled={closed}
              placeholder="clamp"
            />
            <span className="text-soft">A</span>
          </span>
        </span>
      </RowHead>
      {cell("source", spot(source.live.id, source.back.id, "source, post to post"), pass.source)}
      {geometry.feed.map(pieceCell)}
      {feed && cell("feed", spot(feed.start.id, feed.end.id, "whole feed"), feed[pick], "left")}
      {cell("load", spot(load.feed.id, load.back.id, `across ${load.name}`), pass.load, "middle")}
      {back &&
        cell(
          "return",
          spot(back.start.id, back.end.id, `whole ${backWord()}`),
          back[pick],
          "right",
        )}
      {geometry.back.map(pieceCell)}
    </tr>
  );
}

/** How probable it is, by the readings, that a piece is at fault; nothing while nothing was read. */
function SuspicionRow({ geometry }: { geometry: Geometry }) {
  const { kept } = useDesk();
  const pass = passOnShow(kept);
  const read = pass !== null && (kept.run[pass].source !== null || kept.run[pass].load !== null);
  const view = { run: kept.run.load.id, scenario: kept.scenario, stage: kept.stage };
  const walk = useWalk(kept.job, view, read);
  if (!read) return null;
  // The row has its place at once: what stands below must not jump away under a finger.
  const known = walk.data?.run === kept.run.load.id ? walk.data.suspicion : {};
  const shown = (id: string) => known[id] ?? "";
  return (
    <Row
      geometry={geometry}
      name="fault likelihood"
      row={3}
      unit="%"
      why={[]}
      soft
      source={shown(kept.run.source.id)}
      piece={(c) => shown(c.id)}
      load={shown(kept.run.load.id)}
    />
  );
}

type Predicted = { spare_v: Figure | null; predicted_verdict: Verdict; guessed: boolean };

/** Allowance less drop: by the readings where there are any, else as predicted. */
function SpareRow({ geometry }: { geometry: Geometry }) {
  const { sheet } = useDesk();
  const pass = passOnShow(sheet);
  const spare = (cell: Cell | null, thing: Predicted) => {
    const measured = cell?.spare_v ?? null;
    const value = measured ?? (thing.guessed ? null : thing.spare_v);
    if (value === null) return null;
    const verdict = measured !== null && cell ? cell.verdict : thing.predicted_verdict;
    return (
      <span
        className={`relative -mr-1 block rounded-sm pr-1 group-data-narrow:text-[11px] ${FILL[verdict]} ${INK[verdict]} ${measured === null ? "" : "font-bold"}`}
      >
        {volts(value)}
        <span className="absolute top-0 left-0.5 text-[11px]">
          {verdict === "within" ? "" : <Sign verdict={verdict} />}
        </span>
      </span>
    );
  };
  const of = (thing: Predicted & { found: Cell | null; left: Cell | null }) =>
    spare(pass ? thing[pass] : null, thing);
  return (
    <Row
      geometry={geometry}
      name="spare"
      row={2}
      unit={voltUnit()}
      why={["spare", "allowance", "predicted"]}
      piece={of}
      side={of}
    />
  );
}
