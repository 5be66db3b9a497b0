import { Power } from "lucide-react";
import { Popover } from "radix-ui";
import { useState } from "react";
import type { Sheet } from "../../../api/client";
import { OneOf } from "../../../ui/OneOf";
import { useDesk } from "../desk";

type Load = Sheet["loads"][number];
const MOST_TOGGLES = 8;

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
      <OneOf
        label="Scenario"
        value={sheet.scenario}
        choices={sheet.scenarios}
        onPick={(scenario) => go({ scenario, on: undefined })}
      />
      <fieldset className="flex flex-wrap items-center gap-1.5">
        <legend className="sr-only">Loads that are on</legend>
        {sheet.loads.length > MOST_TOGGLES ? (
          <FoldedLoads toggle={toggle} />
        ) : (
          sheet.loads.map((load) => <LoadToggle key={load.id} load={load} toggle={toggle} />)
        )}
        {sheet.toggled && (
          <button
            type="button"
            className="min-h-8 px-1 font-bold text-slate underline"
            onClick={() => go({ on: undefined })}
          >
            Reset to scenario
          </button>
        )}
      </fieldset>
    </div>
  );
}

function LoadToggle({ load, toggle }: { load: Load; toggle: (id: string) => void }) {
  return (
    <button
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
  );
}

/** Many loads fold into one line; opened, they are a list that can be searched. */
function FoldedLoads({ toggle }: { toggle: (id: string) => void }) {
  const { sheet } = useDesk();
  const [sought, setSought] = useState("");
  const on = sheet.loads.filter((l) => l.on).length;
  const plain = sought.trim().toLowerCase();
  const shown = sheet.loads.filter((l) => l.name.toLowerCase().includes(plain));
  return (
    <Popover.Root>
      <Popover.Trigger className="inline-flex min-h-11 items-center gap-1.5 rounded-full border border-copper px-3 lg:min-h-7">
        <Power size={13} aria-hidden className="text-copper" />
        {on} of {sheet.loads.length} on
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          aria-label="Loads that are on"
          align="start"
          collisionPadding={8}
          className="z-40 flex max-h-[70vh] w-[min(360px,94vw)] flex-col rounded-md border border-rule bg-canvas p-2 shadow-lg"
        >
          <input
            aria-label="Find a load"
            placeholder="find a load"
            value={sought}
            onChange={(e) => setSought(e.target.value)}
            className="mb-2 min-h-11 rounded border border-rule bg-plate px-2 lg:min-h-8"
          />
          <ul className="overflow-auto">
            {shown.map((load) => (
              <li key={load.id} className="border-t border-line">
                <button
                  type="button"
                  role="switch"
                  aria-checked={load.on}
                  onClick={() => toggle(load.id)}
                  className="flex min-h-11 w-full items-center justify-between gap-2 px-1 text-left lg:min-h-8"
                >
                  <span className="min-w-0 truncate">{load.name}</span>
                  <span className={load.on ? "font-bold text-copper" : "text-soft"}>
                    {load.on ? "on" : "off"}
                  </span>
                </button>
              </li>
            ))}
            {shown.length === 0 && <li className="p-2 text-soft">No load of this name.</li>}
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
