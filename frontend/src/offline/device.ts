/**
 * What this device keeps for a page: in the browser's own store where it lets us, else in the page alone.
 * A browser may forbid the store altogether, or be full: nothing may come apart for that.
 */
type Where = "local" | "session";
const inPage = new Map<string, string>();

function store(where: Where): Storage | null {
  try {
    return where === "local" ? window.localStorage : window.sessionStorage;
  } catch {
    return null;
  }
}

/** What was kept under a key; null where nothing was. */
export function kept(key: string, where: Where = "local"): string | null {
  const here = inPage.get(`${where} ${key}`);
  if (here !== undefined) return here;
  try {
    return store(where)?.getItem(key) ?? null;
  } catch {
    return null;
  }
}

/**
 * Keep a text under a key, or forget it (null). Whether the device keeps it: else only this page does, until it
 * is closed.
 *
 * @example if (!keep("theme", "dark")) say("Chosen for this page alone.");
 */
export function keep(key: string, text: string | null, where: Where = "local"): boolean {
  const here = `${where} ${key}`;
  try {
    const found = store(where);
    if (!found) throw new Error("there is no store");
    if (text === null) found.removeItem(key);
    else found.setItem(key, text);
    inPage.delete(here);
    return true;
  } catch {
    if (text === null) inPage.delete(here);
    else inPage.set(here, text);
    return text === null;
  }
}

/** Forget all that this device keeps for our pages. */
export function forgetKept(): void {
  inPage.clear();
  for (const where of ["local", "session"] as const) {
    try {
      const found = store(where);
      for (const key of Object.keys(found ?? {})) {
        if (key.startsWith("spare-margin.")) found?.removeItem(key);
      }
    } catch {
      // What cannot be opened holds nothing.
    }
  }
}
