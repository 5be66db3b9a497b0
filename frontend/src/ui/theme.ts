import { keep, kept } from "../offline/device";

export const THEMES = ["light", "dark", "sun"] as const;
export type Theme = (typeof THEMES)[number];
const KEY = "spare-margin.theme";

/** The theme chosen here before, else the one the device asks for. */
export function storedTheme(): Theme {
  const held = kept(KEY);
  if (THEMES.some((theme) => theme === held)) return held as Theme;
  return matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
}

/** Put a theme on the page, and keep it for next time if it was chosen. */
export function applyTheme(theme: Theme, chosen: boolean): void {
  document.documentElement.dataset.theme = theme;
  if (chosen) keep(KEY, theme);
}

export function applyStoredTheme(): void {
  applyTheme(storedTheme(), false);
}
