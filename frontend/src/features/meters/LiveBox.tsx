import { Radio, Volume2, VolumeX } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { signal } from "../../api/signal";
import { keep, kept } from "../../offline/device";
import { Button } from "../../ui/Button";
import { type Figure, type Meter, press, useMeters } from "./api";
import { shownText } from "./figure";
import { byItself, chirp, hum, speak, tone, voice } from "./heard";
import { type Shown, useLive } from "./live";
import { useTakeKeys } from "./useTakeKeys";

/** What a card asks of the meter, and what becomes of what it gives. */
export interface Asked {
  /** Which measurement it is: a figure is taken for it once. */
  card: string;
  quantity: "volts" | "amperes";
  /** How far a figure is up to what is allowed: above 1 it is over; null where nothing is allowed or asked. */
  share: (value: number) => number | null;
  /** Keeps a figure; what was wrong with it, or null. */
  onTake: (typed: string, figure: Figure, id: string) => Promise<string | null>;
  /** Takes back what was kept. */
  onUndo: (id: string) => Promise<string | null>;
  /** What stands still on the meter, as typed; empty while nothing does. */
  onStands?: (typed: string) => void;
  /** Where these two points are recorded and watched. */
  recorded: string;
}

const METER = "spare-margin.meter";
/** The cards that are open, the newest last: what a meter gives goes to that one alone. */
const open = signal<readonly symbol[]>([]);

/** Whether this is the card that was opened last. */
function useNewest(): boolean {
  const [me] = useState(() => Symbol());
  useEffect(() => {
    open.set([...open.get(), me]);
    return () => open.set(open.get().filter((each) => each !== me));
  }, [me]);
  return open.use().at(-1) === me;
}

/** What a meter shows, beside the box: taken by a touch, by a key or a pedal, or by itself once it stands still. */
export function LiveBox(asked: Asked) {
  const meters = useMeters();
  const walks = (meters.data?.meters ?? []).filter((m) => !m.on_source);
  const left = meters.data?.meters.find((m) => m.on_source);
  const [chosen, setChosen] = useState(() => kept(METER));
  const meter = walks.find((m) => m.id === chosen) ?? walks[0];
  const newest = useNewest();
  if (!meter || !newest) return null;
  return (
    <section aria-label="Live meter" className="mt-2 rounded border border-rule bg-canvas p-2">
      {walks.length > 1 && (
        <select
          aria-label="Which meter"
          value={meter.id}
          onChange={(e) => {
            keep(METER, e.target.value);
            setChosen(e.target.value);
          }}
          className="mb-1 min-h-11 w-full rounded border border-rule bg-plate px-2"
        >
          {walks.map((m) => (
            <option key={m.id} value={m.id}>
              {m.name}
            </option>
          ))}
        </select>
      )}
      <Taking key={meter.id} meter={meter} left={left} {...asked} />
    </section>
  );
}

/** An id that two pages with the same card open both make of the same figure: it is kept once. */
const idOf = (meter: Meter, shown: Shown | undefined) =>
  `by-${meter.id.slice(0, 16)}-${(shown?.taken_at ?? "").replace(/\D/g, "")}`;

function Taking({
  meter,
  left,
  card,
  quantity,
  share,
  onTake,
  onUndo,
  onStands,
  recorded,
}: Asked & { meter: Meter; left: Meter | undefined }) {
  const live = useLive();
  const shown = live[meter.id];
  const auto = byItself.use();
  const [says, setSays] = useState("");
  const [last, setLast] = useState<{ typed: string; back: () => Promise<string | null> } | null>(
    null,
  );
  /** Whether what stands on the meter was kept from here. */
  const [took, setTook] = useState(false);
  const stands = Boolean(shown?.stands_at);
  const busy = useRef(false);
  /** The figure that was offered last, and the card that was on show when this page first saw the meter. */
  const offered = useRef<{ figure: Figure; typed: string; id: string } | null>(null);
  const fits = shown?.quantity === quantity;
  const wrong = !shown
    ? "The meter's figures do not come through."
    : shown.says || (fits ? "" : `The meter shows ${shown.quantity}; this asks for ${quantity}.`);

  const take = async (typed: string, figure: Figure, id: string) => {
    busy.current = true;
    // Taken back at the card that it was taken for, whichever is open by then.
    const back = () => onUndo(id);
    const trouble = await onTake(typed, figure, id);
    busy.current = false;
    chirp(trouble === null);
    setSays(trouble ?? "");
    if (trouble === null) {
      setLast({ typed, back });
      setTook(true);
    }
  };
  const pressed = async () => {
    if (busy.current || wrong) return;
    busy.current = true;
    const taken = await press(meter.id).catch(() => null);
    busy.current = false;
    if (!taken) return setSays("The program does not answer.");
    if (!taken.by_meter) {
      chirp(false);
      return setSays("Nothing stands still on it yet.");
    }
    await take(taken.typed, taken.by_meter, `${idOf(meter, shown)}-p`);
  };
  const undo = async () => {
    if (!last || busy.current) return;
    busy.current = true;
    const trouble = await last.back();
    busy.current = false;
    setSays(trouble ?? `${last.typed} is taken back.`);
    if (trouble === null) {
      setLast(null);
      setTook(false);
    }
  };
  useTakeKeys(pressed, undo);

  // What was kept says nothing of the next card, while the leads still lie where they did.
  useEffect(
    () => onStands?.(fits && shown && !took ? shown.stands_at : ""),
    [onStands, fits, shown, took],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: each thing shown is looked at once
  useEffect(() => {
    if (shown?.offered && fits) {
      offered.current = { figure: shown.offered, typed: shown.stands_at, id: idOf(meter, shown) };
    } else if (shown?.hands === "ready") {
      offered.current = null;
      setTook(false);
    }
    const next = offered.current;
    if (!auto || !next || busy.current || wrong) return;
    offered.current = null;
    void take(next.typed, next.figure, next.id);
  }, [shown, auto, card]);
  useEffect(() => {
    const value = shown?.value ?? null;
    hum(value === null || !fits ? null : share(value));
  }, [shown, fits, share]);
  useEffect(() => () => hum(null), []);

  return (
    <>
      <div className="flex items-center gap-2">
        <p className="min-w-0 flex-1">
          <span data-testid="live" className="num block text-2xl leading-tight font-bold">
            {fits ? shownText(shown) : "–"}
          </span>
          <span className="block text-[13px] text-soft">
            {took && stands ? "taken" : HANDS[shown?.hands ?? "waiting"]} ·{" "}
            <Link to="/meters" className="py-2 underline">
              {meter.name}
            </Link>
            {" · "}
            <Link to={recorded} className="py-2 underline">
              record
            </Link>
            {left && `; source ${shownText(live[left.id])}`}
          </span>
        </p>
        <Button
          tone="strong"
          className="h-14 px-4 text-lg"
          disabled={wrong !== ""}
          onClick={pressed}
        >
          Take
        </Button>
      </div>
      {(wrong || says) && (
        <p role="status" className="mt-1 text-[14px] text-ochre">
          {wrong || says}
        </p>
      )}
      <div className="mt-1 flex flex-wrap gap-1.5">
        <Touch on={auto} set={byItself.set} label="Take by itself">
          <Radio size={16} aria-hidden /> by itself
        </Touch>
        <Touch on={tone.use()} set={tone.set} label="Tone">
          {tone.use() ? <Volume2 size={16} aria-hidden /> : <VolumeX size={16} aria-hidden />} tone
        </Touch>
        <Touch
          on={voice.use()}
          set={(on) => {
            voice.set(on);
            if (on) speak("Voice on");
          }}
          label="Voice"
        >
          voice
        </Touch>
        {last && (
          <Button className="ml-auto px-2" aria-label={`Take back ${last.typed}`} onClick={undo}>
            Undo
          </Button>
        )}
      </div>
    </>
  );
}

const HANDS = {
  waiting: "waiting",
  moving: "moving",
  ready: "ready",
  steady: "stands still",
  // Whether this page took it or nobody did: it stands there.
  taken: "stands still",
} as const;

/** One touch, on or off. */
function Touch({
  on,
  set,
  label,
  children,
}: {
  on: boolean;
  set: (on: boolean) => void;
  label: string;
  children: React.ReactNode;
}) {
  return (
    <Button
      aria-label={label}
      aria-pressed={on}
      tone={on ? "strong" : "plain"}
      className="px-2"
      onClick={() => set(!on)}
    >
      {children}
    </Button>
  );
}
