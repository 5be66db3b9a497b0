import { Redo2, Undo2 } from "lucide-react";
import { TipButton } from "./TipButton";

interface Props {
  canUndo: boolean;
  canRedo: boolean;
  onStep: (direction: "undo" | "redo") => void;
}

/** The two steps that everybody knows, with their keys in the title. */
export function UndoRedo({ canUndo, canRedo, onStep }: Props) {
  return (
    <span className="flex">
      <TipButton
        tone="quiet"
        aria-label="Undo"
        tip="Undo (Ctrl Z)"
        disabled={!canUndo}
        onClick={() => onStep("undo")}
      >
        <Undo2 size={17} aria-hidden />
      </TipButton>
      <TipButton
        tone="quiet"
        aria-label="Redo"
        tip="Redo (Ctrl Shift Z)"
        disabled={!canRedo}
        onClick={() => onStep("redo")}
      >
        <Redo2 size={17} aria-hidden />
      </TipButton>
    </span>
  );
}
