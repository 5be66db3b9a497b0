import { Copy, Trash2 } from "lucide-react";
import { useEffect, useState } from "react";
import { Button } from "../../../ui/Button";
import { TipButton } from "../../../ui/TipButton";
import { RunLineBox } from "../../runline/RunLineBox";
import { useDesk } from "../desk";

/** The run as one line of text, to read, copy and redraw; and what can be done to the run as a whole. */
export function RunText() {
  const desk = useDesk();
  const { sheet, draw } = desk;
  const { run } = desk.kept;
  const [open, setOpen] = useState(false);
  const [text, setText] = useState(run.text);
  const [wrong, setWrong] = useState<string | null>(null);
  useEffect(() => {
    setText(run.text);
    setWrong(null);
  }, [run.text]);
  const whole = async (action: "copy" | "remove") =>
    setWrong(await draw({ to: "runs", body: { run: run.load.id, action } }));
  return (
    <section aria-label="The run as a line" className="no-print mt-1">
      <div className="flex flex-wrap items-center gap-1">
        <Button tone="quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "Close the line" : "Edit as text"}
        </Button>
        {!open && (
          <span className="num min-w-0 flex-1 truncate text-[12px] text-soft" title={run.text}>
            {run.text}
          </span>
        )}
        <TipButton
          tone="quiet"
          className={open ? "ml-auto" : ""}
          aria-label={`Duplicate ${run.load.name}`}
          tip="Duplicate this run"
          onClick={() => whole("copy")}
        >
          <Copy size={15} aria-hidden />
        </TipButton>
        <TipButton
          tone="quiet"
          aria-label={`Take ${run.load.name} out`}
          tip="Take the run out, with the pieces that serve it alone"
          onClick={() => whole("remove")}
        >
          <Trash2 size={15} aria-hidden />
        </TipButton>
      </div>
      {wrong && (
        <p role="alert" className="text-over">
          {wrong}
        </p>
      )}
      {open && (
        <RunLineBox
          job={sheet.job}
          stage={sheet.stage}
          label="The run as text. Anything you leave as written stays the same piece."
          value={text}
          onChange={setText}
          onDraw={() => draw({ to: "lines", body: { text, run: run.load.id } })}
          autoFocus
          onEscape={() => {
            setText(run.text);
            setOpen(false);
          }}
        />
      )}
    </section>
  );
}
