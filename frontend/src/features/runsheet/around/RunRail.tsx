import { useState } from "react";
import type { Sheet } from "../../../api/client";
import { brief } from "../../../format/format";
import { FILL, INK, Sign } from "../../../ui/told/Verdict";
import { useDesk } from "../desk";

const MOST_RUNS = 12;

/** All runs of the craft, least spare first. */
export function RunRail() {
  const { sheet, go } = useDesk();
  const [sought, setSought] = useState("");
  const many = sheet.runs.length > MOST_RUNS;
  const plain = sought.trim().toLowerCase();
  const shown = sheet.runs.filter((run) => run.name.toLowerCase().includes(plain));
  return (
    <nav aria-label="Runs, lowest spare first" className="flex min-h-40 flex-1 flex-col">
      {many && (
        <input
          aria-label="Find a run"
          placeholder={`find one of ${sheet.runs.length}`}
          value={sought}
          onChange={(e) => setSought(e.target.value)}
          className="mb-1 min-h-8 w-full rounded border border-rule bg-canvas px-2"
        />
      )}
      <ul className="min-h-0 flex-1 overflow-y-auto">
        {shown.map((run) => (
          <li key={run.id}>
            <button
              type="button"
              aria-current={run.id === sheet.run.load.id ? "page" : undefined}
              onClick={() => go({ run: run.id })}
              className={`block w-full rounded px-2 py-2 text-left ${run.id === sheet.run.load.id ? "bg-canvas" : "hover:bg-canvas"}`}
            >
              <span className="line-clamp-2 font-bold" title={run.name}>
                {run.name}
              </span>
              <span className="flex items-baseline justify-between gap-2">
                <span className="text-[12px] text-soft">
                  {run.on ? howKnown(run) : "not on here"}{" "}
                  {run.on && run.verdict !== "within" && <Sign verdict={run.verdict} />}
                </span>
                <span className={`num whitespace-nowrap font-bold ${INK[run.verdict]}`}>
                  {run.on ? brief(run.spare_v) : "off"}
                </span>
              </span>
              <Bar run={run} />
            </button>
          </li>
        ))}
      </ul>
    </nav>
  );
}

/** How much of the tightest ceiling is spent; over is hatched. */
function Bar({ run }: { run: Sheet["runs"][number] }) {
  const over = run.verdict === "over";
  return (
    <span
      aria-hidden
      className={`mt-1 block h-1.5 overflow-hidden rounded-sm ${over ? FILL.over : "bg-tint"}`}
    >
      {!over && (
        <span
          className="block h-full bg-copper"
          style={{ width: `${Math.min(100, (run.spent_share?.si ?? 0) * 100)}%` }}
        />
      )}
    </span>
  );
}

/** How a run's figure is known. */
function howKnown(run: Sheet["runs"][number]): string {
  if (run.measured) return "measured";
  return run.verdict === "not_measured" ? "not calculated" : "calculated";
}
