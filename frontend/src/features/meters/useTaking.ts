import { useEffect, useRef, useState } from "react";
import { type Figure, type Meter, press } from "./api";
import { byItself, chirp, hum } from "./heard";
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
}

/** A figure that is to be taken by itself. */
interface Offer {
  figure: Figure;
  typed: string;
  id: string;
  /** The card that it is for; null for the one that comes once the last figure is kept. */
  card: string | null;
}

/** An id that two pages with the same card open both make of the same figure: it is kept once. */
const idOf = (meter: Meter, shown: Shown | undefined) =>
  `by-${meter.id.slice(0, 16)}-${(shown?.taken_at ?? "").replace(/\D/g, "")}`;

/** Takes what a meter shows for the card that is open: by a press, by a key, or by itself; and takes it back. */
export function useTaking(asked: Asked, meter: Meter) {
  const { card, quantity, share, onTake, onUndo, onStands } = asked;
  const shown = useLive()[meter.id];
  const auto = byItself.use();
  const [says, setSays] = useState("");
  const [last, setLast] = useState<{ typed: string; back: () => Promise<string | null> } | null>(
    null,
  );
  /** Whether what stands on the meter was kept from here. */
  const [took, setTook] = useState(false);
  const busy = useRef(false);
  const offered = useRef<Offer | null>(null);
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
      // What comes while the last figure is being kept is of the next place already.
      const own = auto && busy.current ? null : card;
      const { offered: figure, stands_at: typed } = shown;
      offered.current = { figure, typed, id: idOf(meter, shown), card: own };
    } else if (shown?.hands === "ready") {
      offered.current = null;
      setTook(false);
    }
    const next = offered.current;
    if (!auto || !next || busy.current || wrong) return;
    offered.current = null;
    // A figure that stood while another card was open is not of this one.
    if (next.card === null || next.card === card) void take(next.typed, next.figure, next.id);
  }, [shown, auto, card]);
  useEffect(() => {
    const value = shown?.value ?? null;
    hum(value === null || !fits ? null : share(value));
  }, [shown, fits, share]);
  useEffect(() => () => hum(null), []);
  return { shown, fits, wrong, says, took, last: last?.typed ?? null, pressed, undo };
}
