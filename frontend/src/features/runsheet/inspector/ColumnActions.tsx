import { ChevronLeft, ChevronRight, Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { TipButton } from "../../../ui/TipButton";
import { RunLineBox } from "../../runline/RunLineBox";
import { useDesk } from "../desk";

/** Put a piece in behind this one, move this one along, take it out. Keys: see KeysHelp. */
export function ColumnActions({
  piece,
  name,
  movable,
  correct,
}: {
  piece: string;
  name: string;
  movable: boolean;
  correct: boolean;
}) {
  const { sheet, draw, adding, setAdding } = useDesk();
  const [text, setText] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  const run = sheet.run.load.id;
  const act = async (action: "earlier" | "later" | "remove") =>
    setWrong(await draw({ to: "columns", body: { run, action, piece } }, correct));
  return (
    <div className="mt-2">
      <div className="flex flex-wrap items-center gap-1.5">
        <span className="text-[13px] text-soft">column:</span>
        {movable && (
          <>
            <TipButton
              className="px-1.5"
              aria-label={`Move ${name} one place earlier`}
              tip="Earlier (Alt ←)"
              onClick={() => act("earlier")}
            >
              <ChevronLeft size={15} aria-hidden />
            </TipButton>
            <TipButton
              className="px-1.5"
              aria-label={`Move ${name} one place later`}
              tip="Later (Alt →)"
              onClick={() => act("later")}
            >
              <ChevronRight size={15} aria-hidden />
            </TipButton>
            <TipButton
              className="px-1.5"
              aria-label={`Take ${name} out`}
              tip="Delete (Del)"
              onClick={() => act("remove")}
            >
              <Trash2 size={14} aria-hidden />
            </TipButton>
          </>
        )}
        <TipButton aria-expanded={adding} tip="Add after it (+)" onClick={() => setAdding(!adding)}>
          <Plus size={14} aria-hidden /> Add after
        </TipButton>
      </div>
      {wrong && (
        <p role="alert" className="mt-1 text-over">
          {wrong}
        </p>
      )}
      {adding && (
        <RunLineBox
          job={sheet.job}
          stage={sheet.stage}
          label={`Add after ${name}, e.g. pin, fuse 10, 2.5 mm² 3 m`}
          value={text}
          onChange={setText}
          onDraw={async () => {
            const trouble = await draw(
              { to: "columns", body: { run, action: "insert", piece, text } },
              correct,
            );
            if (trouble === null) {
              setText("");
              setAdding(false);
            }
            return trouble;
          }}
          autoFocus
          onEscape={() => setAdding(false)}
        />
      )}
    </div>
  );
}
