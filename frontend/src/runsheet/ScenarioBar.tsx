import { Power } from "lucide-react";
import { useDesk } from "./desk";

/** Which state of the craft is on screen, and which loads are on in it. */
export function ScenarioBar() {
  const { sheet, go } = useDesk();
  const toggle = (id: string) => {
    const now = sheet.loads.filter((l) => (l.id === id ? !l.on : l.on)).map((l) => l.id);
    const own = sheet.scenarios.find((s) => s.id === sheet.scenario)?.on ?? [];
    const same = now.length === own.length && now.every((l) => own.includes(l));
    go({ on: same ? undefined : now.join(",") });
  };
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
      <fieldset className="flex flex-wrap gap-1.5">
        <legend className="sr-only">Scenario</legend>
        {sheet.scenarios.map((s) => (
          <button
            key={s.id}
            type="button"
            aria-pressed={s.id === sheet.scenario}
            onClick={() => go({ scenario: s.id, on: undefined })}
            className={`min-h-11 rounded border px-3 lg:min-h-8 ${
              s.id === sheet.scenario
                ? "border-ink bg-plate font-bold"
                : "border-line hover:bg-tint"
            }`}
          >
            {s.name}
          </button>
        ))}
      </fieldset>
      <fieldset className="flex flex-wrap items-center gap-1.5">
        <legend className="sr-only">Loads that are on</legend>
        {sheet.loads.map((load) => (
          <button
            key={load.id}
            type="button"
            role="switch"
            aria-checked={load.on}
            onClick={() => toggle(load.id)}
            className={`inline-flex min-h-11 items-center gap-1.5 rounded-full border px-3 lg:min-h-7 lg:px-2.5 ${
              load.on ? "border-copper text-ink" : "border-dashed border-rule text-soft"
            }`}
          >
            <Power size={13} aria-hidden className={load.on ? "text-copper" : ""} />
            {load.name} {load.on ? "on" : "off"}
          </button>
        ))}
        {sheet.toggled && (
          <button
            type="button"
            className="min-h-8 px-1 font-bold text-slate underline"
            onClick={() => go({ on: undefined })}
          >
            back to the scenario
          </button>
        )}
      </fieldset>
    </div>
  );
}
