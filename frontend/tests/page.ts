import { vi } from "vitest";

/** A store of the browser, in memory; `full` refuses whatever is put in. */
export class Store {
  readonly held = new Map<string, string>();
  full = false;

  getItem(key: string): string | null {
    return this.held.get(key) ?? null;
  }
  setItem(key: string, text: string): void {
    if (this.full) throw new Error("QuotaExceededError");
    this.held.set(key, text);
  }
  removeItem(key: string): void {
    this.held.delete(key);
  }
}

/** The little of a browser that modules ask for when they are loaded; its two stores. */
export function page(): { local: Store; session: Store } {
  const local = new Store();
  const session = new Store();
  vi.stubGlobal("window", {
    localStorage: local,
    sessionStorage: session,
    addEventListener: vi.fn(),
  });
  vi.stubGlobal("document", { querySelector: () => null });
  return { local, session };
}
