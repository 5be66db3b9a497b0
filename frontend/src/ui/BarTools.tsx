import { CircleHelp, Search } from "lucide-react";
import { Button } from "./Button";
import { ThemeButton } from "./ThemeButton";
import { finding, helping } from "./tools";

/** What every bar ends with: find anything, the guide's part about this page, the colours. */
export function BarTools() {
  return (
    <span className="flex items-center">
      <Button
        tone="quiet"
        aria-label="Find"
        title="Find (Ctrl K)"
        onClick={() => finding.set(true)}
      >
        <Search size={17} aria-hidden />
      </Button>
      <Button tone="quiet" aria-label="Help" title="Help (?)" onClick={() => helping.set("")}>
        <CircleHelp size={17} aria-hidden />
      </Button>
      <ThemeButton />
    </span>
  );
}
