import { Contrast, Moon, Sun } from "lucide-react";
import { useState } from "react";
import { Button } from "./Button";
import { applyTheme, storedTheme, THEMES, type Theme } from "./theme";

const NAMES: Record<Theme, string> = { light: "light", dark: "dark", sun: "full sun" };
const ICONS = { light: Sun, dark: Moon, sun: Contrast };

/** Light, dark, and the one with most contrast for work in the sun, in turn. */
export function ThemeButton() {
  const [theme, setTheme] = useState(storedTheme);
  const Icon = ICONS[theme];
  const next = THEMES[(THEMES.indexOf(theme) + 1) % THEMES.length] ?? "light";
  return (
    <Button
      tone="quiet"
      aria-label={`Colours: ${NAMES[theme]}. Change to ${NAMES[next]}.`}
      onClick={() => {
        applyTheme(next, true);
        setTheme(next);
      }}
    >
      <Icon size={17} aria-hidden />
    </Button>
  );
}
