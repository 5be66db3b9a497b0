import { Check } from "lucide-react";
import type { Stage } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { OneOf } from "../../../ui/OneOf";
import { UndoRedo } from "../../../ui/UndoRedo";
import { useDesk } from "../desk";

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
      <OneOf
        label="Stage of the wiring"
        value={sheet.stage}
        choices={sheet.stages.map(({ stage }) => ({ id: stage, name: NAMES[stage] }))}
        onPick={(stage) => go({ stage: stage as Stage })}
        joined
      />
      {has("planned") && !has("as_left") && (
        <Button tone="strong" onClick={finish}>
          <Check size={16} aria-hidden /> Repair done
        </Button>
      )}
      <UndoRedo canUndo={sheet.can_undo} canRedo={sheet.can_redo} onStep={step} />
    </div>
  );
}
