const KEY = "spare-margin.who";

/** Who measures with this device; kept with every reading taken on it. Empty: nobody said. */
export const whoReads = (): string => localStorage.getItem(KEY) ?? "";

/** Say who measures with this device. */
export function sayWhoReads(name: string): void {
  const plain = name.trim().slice(0, 120);
  if (plain) localStorage.setItem(KEY, plain);
  else localStorage.removeItem(KEY);
}
