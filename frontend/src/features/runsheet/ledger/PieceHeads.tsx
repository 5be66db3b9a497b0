import type { Body, Column } from "../../../api/client";
import { backWord, whole } from "../../../format/format";
import { useSay } from "../../../ui/told/Notices";
import { FILL, Sign } from "../../../ui/told/Verdict";
import { passOnShow, useDesk } from "../desk";
import type { Geometry } from "./geometry";

/** The pieces in the order the current passes, joined at their test points; the load as a plate. */
export function PieceHeads({ geometry }: { geometry: Geometry }) {
  const { sheet, selected, select } = useDesk();
  const { source, load } = sheet.run;
  return (
    <thead>
      <tr>
        <td className="sticky left-0 z-10 bg-canvas" />
        <th scope="col" className="p-0 align-bottom font-normal">
          <button
            type="button"
            aria-pressed={selected === source.id}
            onClick={() => select(source.id)}
            className={`block w-full rounded-t px-1 pt-1 text-center ${selected === source.id ? "bg-tint" : "hover:bg-tint"}`}
            title={source.name}
          >
            <span className="block truncate text-[13px] font-bold">Source</span>
            <span className="block h-4" />
            <span className="block min-h-[2.3em] text-[12px] leading-[1.15] text-soft">
              {whole(source.open_circuit_v)}
            </span>
          </button>
        </th>
        {geometry.feed.map((c) => (
          <Head key={c.id} column={c} />
        ))}
        <th
          scope="col"
          colSpan={3}
          className="border-x border-t border-rule bg-plate p-0 align-bottom font-normal"
        >
          <button
            type="button"
            aria-pressed={selected === load.id}
            onClick={() => select(load.id)}
            className={`block w-full px-2 pt-1 text-center ${selected === load.id ? "bg-tint" : "hover:bg-tint"}`}
          >
            <span className="block truncate text-[15px] font-bold">{load.name}</span>
            <span className="block truncate text-[12px] text-soft">{load.spec}</span>
            <span aria-hidden className="flex justify-between text-[12px] text-soft">
              <span>feed</span>
              <span>load</span>
              <span>{backWord()}</span>
            </span>
          </button>
        </th>
        {geometry.back.map((c) => (
          <Head key={c.id} column={c} />
        ))}
      </tr>
    </thead>
  );
}

function Head({ column }: { column: Column }) {
  return column.pieces.length > 0 ? <FoldHead column={column} /> : <PieceHead column={column} />;
}

/** Pieces in a row, folded into one column where there is no room for all. */
function FoldHead({ column }: { column: Column }) {
  const { setUnfolded } = useDesk();
  return (
    <th scope="col" className="p-0 align-bottom font-normal">
      <button
        type="button"
        data-head
        aria-expanded={false}
        title={`From ${column.entry.name} to ${column.exit.name}`}
        onClick={() => setUnfolded(true)}
        className="block w-full rounded-t px-0 pt-1 text-center hover:bg-tint"
      >
        <span className="block px-0.5 text-[13px] leading-[1.15] font-bold text-slate underline">
          {column.name}
        </span>
        <Wire shared={column.shared_with.length > 0} kind={column.kind} />
        <span className="line-clamp-2 min-h-[2.3em] px-0.5 text-[12px] leading-[1.15] text-soft">
          {column.spec.split(" · ").map((part) => (
            <span key={part} className="block">
              {part}
            </span>
          ))}
        </span>
        <span className="sr-only">: show its pieces</span>
      </button>
    </th>
  );
}

function PieceHead({ column }: { column: Column }) {
  const { sheet, selected, select, draw, setAdding } = useDesk();
  const say = useSay();
  const pass = passOnShow(sheet);
  const guilty = pass !== null && sheet.run[pass].guilty === column.id;
  const chosen = selected === column.id;
  const shared = column.shared_with.length > 0;
  const onKeyDown = async (event: React.KeyboardEvent<HTMLButtonElement>) => {
    const side = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    const act: Body<"columns">["action"] | null =
      event.altKey && side && !column.beside
        ? side > 0
          ? "later"
          : "earlier"
        : event.key === "Delete" && !column.beside
          ? "remove"
          : null;
    if (event.key === "+" || event.key === "Insert") {
      event.preventDefault();
      select(column.id);
      setAdding(true);
    } else if (act) {
      event.preventDefault();
      const run = sheet.run.load.id;
      const trouble = await draw({ to: "columns", body: { run, action: act, piece: column.id } });
      if (trouble) say(trouble, { bad: true });
      else if (act !== "remove") focusHead(column.id);
    } else if (side) {
      event.preventDefault();
      const heads = [...document.querySelectorAll<HTMLElement>("[data-head]")];
      heads[heads.indexOf(event.currentTarget) + side]?.focus();
    }
  };
  return (
    <th scope="col" className="p-0 align-bottom font-normal">
      <button
        type="button"
        aria-pressed={chosen}
        data-piece={column.id}
        data-head
        onKeyDown={onKeyDown}
        onClick={() => select(chosen ? null : column.id)}
        title={`${column.name}: from ${column.entry.name} to ${column.exit.name}${shared ? `; shared with ${column.shared_with.join(", ")}` : ""}`}
        className={`block w-full rounded-t px-0 pt-1 text-center ${guilty ? FILL.over : ""} ${chosen ? "bg-tint" : "hover:bg-tint"}`}
      >
        <span className="line-clamp-2 px-0.5 text-[13px] leading-[1.15] font-bold">
          {guilty && <Sign verdict="over" />} {column.name}
        </span>
        <Wire shared={shared} beside={column.beside} kind={column.kind} undrawn={column.undrawn} />
        <span className="line-clamp-2 min-h-[2.3em] px-0.5 text-[12px] leading-[1.15] text-soft">
          {column.beside && <span className="block">beside</span>}
          {column.spec.split(" · ").map((part) => (
            <span key={part} className="block">
              {part}
            </span>
          ))}
        </span>
      </button>
    </th>
  );
}

/** The column may stand elsewhere once it is drawn again; the keyboard stays with it. */
function focusHead(piece: string): void {
  setTimeout(
    () => document.querySelector<HTMLElement>(`[data-piece="${CSS.escape(piece)}"]`)?.focus(),
    120,
  );
}

/** A piece of the loop between its two test points; shared ones are drawn double. */
function Wire({
  kind,
  shared = false,
  beside = false,
  undrawn = false,
}: {
  kind: Column["kind"];
  shared?: boolean;
  beside?: boolean;
  undrawn?: boolean;
}) {
  const stroke = beside ? "stroke-rule" : "stroke-copper";
  const wide = kind === "conductor" ? 4 : 2;
  return (
    <svg aria-hidden className="block h-4 w-full overflow-visible" preserveAspectRatio="none">
      <line
        x1="0"
        x2="100%"
        y1="8"
        y2="8"
        className={stroke}
        strokeWidth={wide}
        strokeDasharray={undrawn ? "7 5" : beside ? "4 3" : undefined}
      />
      {shared && <line x1="0" x2="100%" y1="3" y2="3" className={stroke} strokeWidth="1" />}
      {kind !== "conductor" && kind !== "unknown" && (
        <rect
          x="50%"
          y="3"
          width="12"
          height="10"
          transform="translate(-6 0)"
          rx="2"
          className={`fill-canvas ${stroke}`}
          strokeWidth="2"
        />
      )}
      <circle cx="100%" cy="8" r="4" className="fill-canvas stroke-ink" strokeWidth="1.6" />
      <circle cx="0" cy="8" r="4" className="fill-canvas stroke-ink" strokeWidth="1.6" />
    </svg>
  );
}
