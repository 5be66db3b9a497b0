import { Check } from "lucide-react";
import type { Stage } from "../../api/client";
import { Button } from "../../ui/Button";
import { UndoRedo } from "../../ui/UndoRedo";
import { useDesk } from "./desk";

const NAMES: Record<Stage, string> = {
  as_found: "As found",
  planned: "Planned",
  as_left: "As left",
};

/** The stages of the wiring, undo and redo, and the step that says the repair is done. */
export function StageTabs() {
  const { sheet, go, step, finish } = useDesk();
  const has = (stage: Stage) => sheet.stages.some((s) => s.stage === stage);
  return (
    <div className="flex flex-wrap items-center gap-1.5 lg:mt-1 lg:flex-col lg:items-stretch lg:border-t lg:border-line lg:pt-3">
      <fieldset className="flex overflow-hidden rounded border border-rule lg:flex-col">
        <legend className="sr-only">Stage of the wiring</legend>
        {sheet.stages.map(({ stage }) => (
          <button
            key={stage}
            type="button"
            aria-pressed={stage === sheet.stage}
            onClick={() => go({ stage })}
            className={`min-h-11 border-r border-rule px-3 last:border-r-0 lg:min-h-8 lg:border-r-0 lg:text-left ${
              stage === sheet.stage ? "bg-ink font-bold text-canvas" : "bg-plate hover:bg-tint"
            }`}
          >
            {NAMES[stage]}
          </button>
        ))}
      </fieldset>
      {has("planned") && !has("as_left") && (
        <Button tone="strong" onClick={finish}>
          <Check size={16} aria-hidden /> Repair done
        </Button>
      )}
      <UndoRedo canUndo={sheet.can_undo} canRedo={sheet.can_redo} onStep={step} />
    </div>
  );
}
