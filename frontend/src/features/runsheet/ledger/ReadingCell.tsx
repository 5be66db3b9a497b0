import { CloudOff } from "lucide-react";
import { type ClipboardEvent, type KeyboardEvent, useEffect, useId, useRef, useState } from "react";
import type { Body, Cell, Sheet, Verdict } from "../../../api/client";
import { drop, useWaiting } from "../../../api/outbox";
import { volts } from "../../../format/format";
import { FILL, INK, Sign } from "../../../ui/told/Verdict";
import { type Spot, useDesk } from "../desk";
import { draftKey, heldDraft, holdDraft } from "./drafts";
import { moveFrom, spread } from "./keys";

interface Props {
  spot: Spot;
  cell: Cell | null;
  /** Row and column among the cells of the sheet, for the arrow keys. */
  at?: [number, number];
  big?: boolean;
  disabled?: boolean;
  placeholder?: string;
}

/** What stands in a cell: what waits on this device, else what is kept. */
function useKept(sheet: Sheet, spot: Spot, cell: Cell | null) {
  const here = useWaiting(sheet.job)
    .filter((w) => w.path === "readings")
    .filter((w) => isAt(w.body, sheet.scenario, spot));
  const waits = here.filter((w) => !w.refused).at(-1);
  const kept = waits ? String(waits.body.typed) : cell?.reading ? shown(cell) : "";
  return { here, waits, kept };
}

/** One reading: type what the meter shows; Enter, Tab or leaving the cell keeps it. */
export function ReadingCell({ spot, cell, at, big = false, disabled = false, placeholder }: Props) {
  const desk = useDesk();
  const { sheet } = desk;
  const key = draftKey(
    sheet.job,
    sheet.scenario,
    `${spot.stage}.${spot.quantity}.${spot.red}.${spot.black}`,
  );
  const { here, waits, kept } = useKept(sheet, spot, cell);
  const [text, setText] = useState(() => heldDraft(key) ?? kept);
  const [wrong, setWrong] = useState<string | null>(null);
  const sent = useRef<string | null>(null);
  const editing = useRef(false);
  const [inside, setIn] = useState(false);
  const box = useRef<HTMLInputElement>(null);
  const id = useId();

  useEffect(() => {
    if (!editing.current) setText(heldDraft(key) ?? kept);
  }, [kept, key]);

  const keep = async (given: string, corrects = false) => {
    if (given.trim() === kept.trim()) {
      holdDraft(key, null);
      setWrong(null);
      return;
    }
    if (sent.current === given) return;
    sent.current = given;
    holdDraft(key, given);
    for (const w of here) if (w.refused) drop(w.id);
    // Read again, both stand; what is emptied or typed wrong goes out of the sums, not out of the record.
    const replaces = corrects || !given.trim();
    const trouble = await desk.take(
      spot,
      given,
      replaces ? (waits?.id ?? cell?.reading ?? null) : null,
    );
    setWrong(trouble);
    if (trouble === null) holdDraft(key, null);
    sent.current = null;
  };
  const undo = () => {
    setText(kept);
    setWrong(null);
    holdDraft(key, null);
  };
  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === "Escape") undo();
    if (event.key === "Enter") {
      event.preventDefault();
      keep(event.currentTarget.value, event.shiftKey);
      if (at) moveFrom(event.currentTarget, at, "next");
    } else if (at) {
      arrows(event, at);
    }
  };
  const verdict = (waits ? null : cell?.verdict) ?? "not_measured";
  // What stands here but is not kept does not look as if it were.
  const typed = (waits || cell?.reading) && text.trim() === kept.trim();
  // What waited may have been refused since, while it still stands here.
  const bad = wrong ?? here.find((w) => w.refused && w.body.typed === text)?.refused ?? null;
  const note = bad ?? (waits ? "Waits on this device." : (cell?.findings[0]?.says ?? null));
  const again = kept !== "" && text.trim() !== "" && text.trim() !== kept.trim();
  const done = (corrects: boolean) => {
    keep(text, corrects);
    if (at && box.current) moveFrom(box.current, at, "next");
    else box.current?.blur();
  };
  const derived = cell && !cell.reading ? volts(cell.volts) : undefined;
  return (
    <span className={`relative block ${big ? "w-32" : ""}`}>
      <input
        ref={box}
        value={text}
        disabled={disabled}
        inputMode="decimal"
        autoComplete="off"
        spellCheck={false}
        data-at={at?.join(",")}
        placeholder={derived ?? placeholder}
        aria-label={`${spot.stage === "as_left" ? "as left" : "as found"}, ${spot.name}, ${spot.quantity}`}
        aria-invalid={bad !== null}
        aria-describedby={note ? id : undefined}
        title={note ?? undefined}
        onFocus={(e) => {
          editing.current = true;
          setIn(true);
          e.currentTarget.select();
        }}
        onChange={(e) => setText(e.target.value)}
        onBlur={(e) => {
          editing.current = false;
          setIn(false);
          keep(e.currentTarget.value);
        }}
        onKeyDown={onKeyDown}
        onPaste={(e) => at && pasteBlock(e, at)}
        className={`num w-full rounded-sm border bg-transparent text-right placeholder:italic placeholder:text-soft ${
          big ? "min-h-12 pr-2 pl-7 text-lg" : "h-6 pr-1 pl-1 text-[13px]"
        } ${disabled ? "border-none" : ""} ${cell?.set_aside && !waits ? "line-through" : ""} ${ink(verdict, Boolean(typed), bad !== null)}`}
      />
      <Mark waits={Boolean(waits)} cell={cell} big={big} />
      {inside && again && (
        <span className="cell-again">
          <Again onPick={() => done(false)} keys="Enter">
            read again
          </Again>
          <Again onPick={() => done(true)} keys="Shift + Enter">
            I typed it wrong
          </Again>
        </span>
      )}
      {note && (
        <span id={id} role={bad ? "alert" : undefined} className={bad ? "cell-wrong" : "sr-only"}>
          {note}
        </span>
      )}
    </span>
  );
}

/** Whether what stands in a cell waits on this device, else its verdict by its sign. */
function Mark({ waits, cell, big }: { waits: boolean; cell: Cell | null; big: boolean }) {
  const verdict = cell?.verdict ?? "not_measured";
  return (
    <>
      {waits && (
        <CloudOff
          size={big ? 18 : 12}
          aria-hidden
          className={`pointer-events-none absolute ${big ? "top-3.5 left-2" : "top-1.5 left-0.5"}`}
        />
      )}
      {!waits && verdict !== "not_measured" && (
        <span
          className={`pointer-events-none absolute ${big ? "top-3 left-2" : "top-0.5 left-0.5 text-[11px]"}`}
        >
          <Sign verdict={verdict} />
        </span>
      )}
    </>
  );
}

/** One of two things that typing over a reading may mean. The cell keeps the focus. */
function Again({ onPick, keys, children }: { onPick: () => void; keys: string; children: string }) {
  return (
    <button
      type="button"
      tabIndex={-1}
      title={keys}
      onPointerDown={(e) => e.preventDefault()}
      onClick={onPick}
      className="min-h-11 rounded border border-rule bg-plate px-2 whitespace-nowrap hover:bg-tint lg:min-h-7"
    >
      {children}
    </button>
  );
}

function isAt(body: Body<"readings">, scenario: string, spot: Spot): boolean {
  return (
    body.scenario === scenario &&
    (["stage", "quantity", "red", "black"] as const).every((key) => body[key] === spot[key])
  );
}

function shown(cell: Cell): string {
  if (cell.state === "over_range") return "OL";
  if (cell.state === "wandering") return "wandering";
  if (cell.state === "not_reachable") return "no reach";
  return cell.typed;
}

function arrows(event: KeyboardEvent<HTMLInputElement>, at: [number, number]) {
  const input = event.currentTarget;
  const whole = input.selectionStart === 0 && input.selectionEnd === input.value.length;
  const first = input.selectionStart === 0 && input.selectionEnd === 0;
  const last = input.selectionStart === input.value.length;
  const way = {
    ArrowUp: "up",
    ArrowDown: "down",
    ArrowLeft: whole || first ? "left" : null,
    ArrowRight: whole || last ? "next" : null,
  }[event.key] as "up" | "down" | "left" | "next" | null | undefined;
  if (way && moveFrom(input, at, way)) event.preventDefault();
}

/** How what stands in a cell looks: refused, kept, or only typed; by its verdict. */
function ink(verdict: Verdict, typed: boolean, bad: boolean): string {
  const edge = bad
    ? "border-2 border-over"
    : typed
      ? "border-transparent"
      : "border-dashed border-line";
  const told = verdict === "over" || verdict === "too_close" ? INK[verdict] : "text-copper";
  return `${edge} ${FILL[verdict]} ${typed ? `font-bold ${told}` : ""}`;
}

/** A row or block from a spreadsheet goes into this cell and those beside it. */
function pasteBlock(event: ClipboardEvent<HTMLInputElement>, at: [number, number]) {
  const pasted = event.clipboardData.getData("text");
  if (!/[\t\n]/.test(pasted.trim())) return;
  event.preventDefault();
  spread(pasted, event.currentTarget, at);
}
