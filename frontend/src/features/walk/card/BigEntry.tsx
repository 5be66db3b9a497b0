import { type ReactNode, type RefObject, useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { mayBeWhole } from "../../../format/milli";
import { keep as keepHere, kept } from "../../../offline/device";
import { Button } from "../../../ui/Button";
import type { Milli } from "./milli";

interface Props {
  label: string;
  unit: string;
  /** What a bare figure is typed in; nothing where there is no choice. */
  milli?: Milli | undefined;
  /** What stands in it, where somebody else looks on as it is typed. */
  typed?: string;
  onType?: (typed: string) => void;
  /** Buttons for what is said instead of a number, in the row of those that are always there. */
  beside?: ReactNode;
  /** The reading that stands here already: read again, both stand, unless that one was typed wrong. */
  corrects?: string | undefined;
  /** Keeps what was typed; resolves to what was wrong, or null. */
  onRead: (typed: string, more: Record<string, string>) => Promise<string | null>;
}

const HOLDS = [
  ["", "live"],
  ["least", "least, held"],
  ["most", "most, held"],
] as const;

const TWO_METERS = "spare-margin.two-meters";

/** The unit beside the box; where a meter may show thousandths of it, a key that changes it. */
function Unit({ unit, milli }: { unit: string; milli: Milli | undefined }) {
  if (!milli) return <span className="w-5 text-xl text-soft">{unit}</span>;
  const shown = milli.on ? `m${unit}` : unit;
  return (
    <Button
      className="h-16 w-14 px-0 text-xl"
      aria-label={`Typed in ${shown}: change to ${milli.on ? unit : `m${unit}`}`}
      // The box keeps the focus, and with it the keyboard of a phone.
      onPointerDown={(e) => e.preventDefault()}
      onClick={milli.flip}
    >
      {shown}
    </Button>
  );
}

/** The box has the focus on each card anew, where there is a keyboard. */
function useFocusOn(box: RefObject<HTMLInputElement | null>, label: string) {
  // biome-ignore lint/correctness/useExhaustiveDependencies: another card is another thing to type for
  useEffect(() => {
    const elsewhere = document.activeElement?.matches("input, textarea, select");
    // Whoever types somewhere else, as in the sweep, is left there.
    if (!elsewhere && matchMedia("(pointer: fine)").matches) {
      box.current?.focus({ preventScroll: true });
    }
  }, [label]);
}

/** What a second meter shows that is left on the source. */
function SourceMeter({ value, set }: { value: string; set: (value: string) => void }) {
  return (
    <label className="mt-1.5 flex items-center gap-2 text-[14px] text-soft">
      <span className="flex-1 text-right">Source meter</span>
      <input
        value={value}
        onChange={(e) => set(e.target.value)}
        inputMode="decimal"
        autoComplete="off"
        className="num h-11 w-28 rounded border border-rule bg-canvas px-2 text-right text-lg text-ink"
      />
      <span className="w-4">V</span>
    </label>
  );
}

/** What the meter shows, typed large; kept on Enter. */
export function BigEntry({
  label,
  unit,
  milli,
  typed: told,
  onType,
  beside,
  corrects,
  onRead,
}: Props) {
  const [own, setOwn] = useState("");
  const typed = told ?? own;
  const setTyped = onType ?? setOwn;
  const [more, setMore] = useState<Said>({ source: "", warm: "", hold: "", note: "" });
  const [wrong, setWrong] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const [two, setTwo] = useState(() => kept(TWO_METERS) === "yes");
  const leaveTwo = (on: boolean) => {
    setTwo(on);
    keepHere(TWO_METERS, on ? "yes" : "");
  };
  const box = useRef<HTMLInputElement>(null);
  useFocusOn(box, label);
  /** What is on its way; it left the box when it was sent, so that the next figure has it to itself. */
  const [sent, setSent] = useState("");
  /** Whether anything was typed since: what was refused does not come back over it. */
  const touched = useRef(false);
  const keep = async (text: string, supersedes = "") => {
    if (!text.trim() || busy) return;
    setBusy(true);
    setSent(text.trim());
    touched.current = false;
    setTyped("");
    setMore({ ...more, note: "", source: "" });
    // What is not said here is as the moment has it: an empty box takes nothing away.
    const told = Object.entries({ ...more, supersedes }).filter(([, each]) => each);
    const figure = milli ? milli.said(text.trim()) : text.trim();
    const trouble = await onRead(figure, Object.fromEntries(told));
    setBusy(false);
    setSent("");
    if (trouble === null) return setWrong(null);
    setWrong(touched.current ? `${text.trim()} was not kept. ${trouble}` : trouble);
    if (touched.current) return;
    setTyped(typed);
    setMore((now) => ({ ...now, note: more.note, source: more.source }));
  };
  return (
    <form
      className="mt-1.5"
      onInput={() => {
        touched.current = true;
      }}
      onSubmit={(e) => {
        e.preventDefault();
        keep(typed);
      }}
    >
      <div className="flex items-center gap-2">
        <input
          ref={box}
          aria-label={label}
          value={typed}
          placeholder={sent}
          inputMode="decimal"
          autoComplete="off"
          spellCheck={false}
          aria-invalid={wrong !== null}
          onChange={(e) => {
            setTyped(e.target.value);
            setWrong(null);
          }}
          className={`num h-16 min-w-0 flex-1 rounded border-2 bg-canvas px-3 text-right text-3xl font-bold ${wrong ? "border-over" : "border-ink"}`}
        />
        <Unit unit={unit} milli={milli} />
        <Button
          type="submit"
          tone="strong"
          className="h-16 px-4 text-lg"
          disabled={busy}
          // The box keeps the focus, so that the keyboard of a phone stays for the next reading.
          onPointerDown={(e) => e.preventDefault()}
        >
          {corrects ? "Read again" : "Save"}
        </Button>
      </div>
      {milli?.on && mayBeWhole(typed) && (
        <p role="status" className="mt-1 text-[14px] text-ochre">
          That is {milli.said(typed)}. If the meter shows {unit}, touch m{unit} beside the box.
        </p>
      )}
      {corrects && (
        <Button
          className="mt-1.5 w-full"
          disabled={busy || !typed.trim()}
          onClick={() => keep(typed, corrects)}
        >
          I typed the first one wrong: this is what it showed
        </Button>
      )}
      {two && unit === "V" && (
        <SourceMeter value={more.source} set={(source) => setMore({ ...more, source })} />
      )}
      {wrong && (
        <p role="alert" className="mt-1 text-over">
          {wrong}
        </p>
      )}
      <div className="mt-2 grid auto-cols-fr grid-flow-col gap-1.5">
        <Button className="px-1 leading-tight" onClick={() => keep("OL")}>
          OL
        </Button>
        <Button className="px-1 leading-tight" onClick={() => keep("wandering")}>
          Won't settle
        </Button>
        {beside}
      </div>
      <More said={more} set={setMore} two={two} onTwo={leaveTwo} />
    </form>
  );
}

/** What else can be said of a reading, as typed. */
interface Said {
  source: string;
  warm: string;
  hold: string;
  note: string;
}

/** What is rarely said of a reading: behind one touch. */
function More({
  said,
  set,
  two,
  onTwo,
}: {
  said: Said;
  set: (said: Said) => void;
  two: boolean;
  onTwo: (on: boolean) => void;
}) {
  const field = "num min-h-11 w-full rounded border border-rule bg-canvas px-2";
  return (
    <details className="mt-1">
      <summary className="min-h-11 py-3 text-soft">More about this reading</summary>
      <div className="grid grid-cols-2 gap-2">
        <label className="col-span-2 flex min-h-11 items-center gap-2">
          <input
            type="checkbox"
            checked={two}
            onChange={(e) => onTwo(e.target.checked)}
            className="size-6"
          />
          second meter left on the source
        </label>
        <label className="text-[13px] text-soft">
          Minutes switched on
          <input
            value={said.warm}
            onChange={(e) => set({ ...said, warm: e.target.value })}
            inputMode="decimal"
            className={field}
          />
        </label>
        <label className="text-[13px] text-soft">
          The meter showed it
          <select
            value={said.hold}
            onChange={(e) => set({ ...said, hold: e.target.value })}
            className={field}
          >
            {HOLDS.map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <label className="text-[13px] text-soft">
          Note
          <input
            value={said.note}
            onChange={(e) => set({ ...said, note: e.target.value })}
            className={field}
          />
        </label>
        <Link
          to="/meters"
          className="inline-flex min-h-11 items-center self-end text-slate underline"
        >
          Take it from a meter
        </Link>
      </div>
    </details>
  );
}
