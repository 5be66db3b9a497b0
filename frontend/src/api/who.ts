import { keep, kept } from "../offline/device";

const KEY = "spare-margin.who";

/** Who measures with this device; kept with every reading taken on it. Empty: nobody said. */
export const whoReads = (): string => kept(KEY) ?? "";

/** Says who measures with this device, as kept with each reading from now on. */
export function sayWhoReads(name: string): void {
  const plain = name.trim().slice(0, 120);
  keep(KEY, plain || null);
}
