import { useState } from "react";
import { inMilli, mustBeMilli } from "../../../format/milli";
import { useSettings } from "../../../format/settings";
import { keep, kept } from "../../../offline/device";

/** What a bare figure is typed in: thousandths of the unit or not, and the key that changes it. */
export interface Milli {
  on: boolean;
  flip: () => void;
  /** A figure as it is sent: a bare one with the unit that it was typed in. */
  said: (typed: string) => string;
}

interface Asked {
  /** Which measurement it is: what was chosen for one says nothing of the next. */
  card: string;
  unit: "V" | "A";
  /** Whether less than one V or A is asked for. */
  low: boolean;
  /** The most volts that there can be; null where nobody can say, and for a current. */
  most: number | null;
}

const KEY = { V: "spare-margin.typed-mV", A: "spare-margin.typed-mA" };

/**
 * The V / mV key (or A / mA) of a card. On a low one it stands as this device was left, or as the workshop's
 * settings have it; more volts than there can be turn it by themselves. Elsewhere it begins with the whole unit.
 *
 * @example const milli = useMilli({ card: card.id, unit: "V", low: true, most: 16 }, typed);
 */
export function useMilli({ card, unit, low, most }: Asked, typed: string): Milli {
  const settings = useSettings();
  const [chosen, setChosen] = useState<{ card: string; on: boolean } | null>(null);
  const left = kept(KEY[unit]);
  const usual = low && (left ? left === "yes" : unit === "V" && settings.data?.volts === "mV");
  const set = chosen?.card === card ? chosen.on : null;
  const stands = (text: string) => set ?? (usual || mustBeMilli(text, most));
  const on = stands(typed);
  return {
    on,
    flip: () => {
      setChosen({ card, on: !on });
      if (low) keep(KEY[unit], on ? "no" : "yes");
    },
    said: (text) => inMilli(text, unit, stands(text)),
  };
}
