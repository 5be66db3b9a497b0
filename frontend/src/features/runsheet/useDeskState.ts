import { useCallback, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { type Edit, type Sheet, sentence } from "../../api/client";
import { newId } from "../../api/ids";
import { whoReads } from "../../api/who";
import { useSay } from "../../ui/told/Notices";
import { type Drawn, useDraw } from "../craft/api";
import { trySheet, useActs, type View } from "./api";
import { type Desk, passOnShow } from "./desk";

/** The state of an open sheet: what is shown and chosen, what is wondered about, what can be done. */
export function useDeskState(
  job: string,
  view: View,
  sheet: Sheet,
  setView: (view: View) => void,
): Desk {
  const say = useSay();
  const [selected, setSelected] = useState<string | null>(null);
  const wondering = useWondering(sheet);
  const [adding, setAdding] = useState(false);
  const [unfolded, setUnfolded] = useState(false);

  const go = useCallback((next: Partial<View>) => setView({ ...view, ...next }), [view, setView]);
  const moved = (now: Sheet) => {
    wondering.drop();
    // The address is where was gone to last: what is on screen may be of before, or of another device's doing.
    const at = new URLSearchParams(window.location.search).get("stage") ?? sheet.stage;
    if (now.stage !== at) go({ stage: now.stage, run: now.run.load.id });
  };
  const acts = useActs(job, view, moved);
  const drawing = useDraw(job);
  const navigate = useNavigate();
  const complain = (error: unknown) => say(sentence(error), { bad: true });
  const undo = async (made: Drawn) => {
    try {
      for (const stage of [...made.stages].reverse()) {
        const stepped = await acts.step.mutateAsync({ stage, direction: "undo" });
        say(stepped.said);
        if (stepped.stage !== stage) go({ stage: stepped.stage });
      }
    } catch (error) {
      complain(error);
    }
  };

  return {
    sheet: wondering.trial ?? sheet,
    kept: sheet,
    view,
    go: (next) => {
      wondering.stop();
      wondering.drop();
      if (next.run) setSelected(null);
      go(next);
    },
    selected,
    select: (id) => {
      setSelected(id);
      setAdding(false);
    },
    adding,
    setAdding,
    unfolded,
    setUnfolded,
    wondering: wondering.trial !== null,
    take: async (spot, typed, supersedes) => {
      const { stage, quantity, red, black } = spot;
      const anew = { id: newId(), revision: sheet.revision, who: whoReads() };
      const outcome = await acts.read(
        { ...anew, stage, scenario: sheet.scenario, quantity, red, black, typed, supersedes },
        `${typed.trim() || "taken back"} at ${spot.name}`,
      );
      if (outcome.state === "kept" && /[^\d.]|^\./.test(typed.trim()))
        say(`${spot.name}: ${outcome.answer.understood}`);
      return outcome.state === "refused" ? outcome.why : null;
    },
    takeBack: async (wrong) => {
      const { reading, says, quantity, red, black, scenario } = wrong;
      const stage = passOnShow(sheet) === "left" ? "as_left" : "as_found";
      const anew = { id: newId(), revision: sheet.revision, who: whoReads() };
      const outcome = await acts.read(
        { ...anew, stage, scenario, quantity, red, black, typed: "", supersedes: reading },
        `taken back: ${says}`,
      );
      return outcome.state === "refused" ? outcome.why : null;
    },
    change: async (element, edit, correct) => {
      wondering.stop();
      const turn = wondering.turn();
      try {
        const now = await acts.change.mutateAsync({ sheet, element, edit, correct });
        if (now.stage === "planned" && sheet.stage === "as_found")
          say("Kept as the planned repair; the readings stay with the wiring as found.");
        return null;
      } catch (error) {
        // What was typed meanwhile keeps its preview.
        if (turn === wondering.turn()) wondering.drop();
        if (isPick(edit)) complain(error);
        return sentence(error);
      }
    },
    wonder: (element, edit, correct) => {
      wondering.stop();
      if (edit === null) {
        wondering.drop();
        return;
      }
      wondering.ask(() => trySheet(job, sheet, view, { element, edit, correct }));
    },
    draw: async (said, correct = false) => {
      wondering.stop();
      wondering.drop();
      try {
        const at = { stage: sheet.stage, revision: sheet.revision };
        const made = await drawing.mutateAsync(
          said.to === "lines"
            ? { to: said.to, at, body: { ...said.body, correct } }
            : said.to === "columns"
              ? { to: said.to, at, body: { ...said.body, correct } }
              : { to: said.to, at, body: { ...said.body, correct } },
        );
        say(
          made.stage === "planned" && sheet.stage === "as_found"
            ? `${made.said} It is part of the planned repair now.`
            : made.said,
          { act: { label: "Undo", run: () => undo(made) } },
        );
        if (said.to === "runs" && said.body.action === "remove") {
          if (sheet.runs.length === 1) navigate(`/jobs/${job}/craft`);
          else go({ run: undefined, stage: made.stage });
        } else if (said.to === "runs") go({ run: made.made ?? undefined, stage: made.stage });
        else if (made.stage !== sheet.stage) go({ stage: made.stage, run: sheet.run.load.id });
        if (said.to === "columns" && said.body.action === "insert") setSelected(made.made);
        if (said.to === "columns" && said.body.action === "remove") setSelected(null);
        return null;
      } catch (error) {
        return sentence(error);
      }
    },
    finish: () => acts.finish.mutate(undefined, { onError: complain }),
    step: (direction) =>
      acts.step.mutate(
        { stage: sheet.stage, direction },
        { onSuccess: (stepped) => say(stepped.said), onError: complain },
      ),
  };
}

/** What the sheet would be with what is typed so far: one question at a time, the newest next. */
function useWondering(sheet: Sheet) {
  const [trial, setTrial] = useState<Sheet | null>(null);
  const asked = useRef(0);
  const asking = useRef(false);
  const next = useRef<{ turn: number; ask: () => Promise<Sheet> } | null>(null);
  // What is typed meanwhile is asked when the answer is there.
  const goOn = async () => {
    asking.current = true;
    while (next.current) {
      const { turn, ask } = next.current;
      next.current = null;
      try {
        const would = await ask();
        if (turn === asked.current) setTrial(explained(would, sheet));
      } catch {
        // Half-typed figures are often not yet figures; what is wrong is said when it is kept.
      }
    }
    asking.current = false;
  };
  return {
    trial,
    /** Which question was the last to be stopped: an answer to an older one is none. */
    turn: () => asked.current,
    stop: () => {
      asked.current += 1;
      next.current = null;
    },
    drop: () => setTrial(null),
    ask: (ask: () => Promise<Sheet>) => {
      next.current = { turn: asked.current, ask };
      if (!asking.current) void goOn();
    },
  };
}

/**
 * A what-if with the workings of what is kept where it has none of its own: whoever presses such a number
 * leaves the line, which keeps the change, and is shown the new working as soon as it is there.
 */
function explained(would: Sheet, kept: Sheet): Sheet {
  const known = new Map(kept.run.columns.map((c) => [c.id, c.working]));
  const columns = would.run.columns.map((c) =>
    c.working.length > 0 ? c : { ...c, working: known.get(c.id) ?? [] },
  );
  return { ...would, run: { ...would.run, columns } };
}

/** Whether an edit came from a button or a list, which have no line of their own for an error. */
function isPick(edit: Edit): boolean {
  return (
    "kind" in edit ||
    "repair" in edit ||
    "open" in edit ||
    "style" in edit ||
    "duty" in edit ||
    "behaviour" in edit
  );
}
