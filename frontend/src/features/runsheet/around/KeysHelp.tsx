import { OverSheet } from "../../../ui/Dialog";

const KEYS: [string, string][] = [
  ["?", "this list"],
  ["Arrows", "move among the readings, and to the numbers above and below"],
  ["Enter on a number", "show where it comes from"],
  ["Enter", "keep what was typed, go to the next"],
  ["Enter over a reading", "read again: both stand"],
  ["Shift Enter over a reading", "the first was typed wrong: this one stands for it"],
  ["Delete over a reading", "empty it and Enter: take it back"],
  ["Tab", "keep what was typed, go on"],
  ["Escape", "drop what was typed; put the piece away"],
  ["← → on a piece", "the piece before, the piece behind"],
  ["Alt ← · Alt → on a piece", "move it one place along the run"],
  ["+ · Delete on a piece", "put one in behind it, take it out"],
  ["Tab in a run line", "take what is offered; Enter draws the line"],
  ["Ctrl V", "paste a row or block from a spreadsheet, starting here"],
  ["Ctrl Z · Ctrl Shift Z", "undo and redo a change of the wiring"],
  ["Alt ↑ · Alt ↓", "the run above, the run below"],
  ["Alt 1 … Alt 9", "the scenarios in their order"],
  ["Alt I", "the figures of the piece that is chosen"],
  ["Alt R", "what the readings say, and what to do about it"],
  ["Alt F · Alt P · Alt L", "as found, planned, as left"],
];

const TYPED: [string, string][] = [
  ["0.14 · ,14 · 140m · 140 mV", "all mean 0.140 V"],
  ["OL", "over range"],
  ["wandering", "the display will not settle"],
  ["x", "cannot reach"],
  ["12 ft · 10 AWG · 2,5", "lengths and sizes as you say them"],
];

export function KeysHelp({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <OverSheet open={open} onClose={onClose} title="Keys, and what can be typed">
      <List rows={KEYS} />
      <h3 className="mt-4 mb-1 font-bold">What can be typed</h3>
      <List rows={TYPED} />
    </OverSheet>
  );
}

function List({ rows }: { rows: [string, string][] }) {
  return (
    <dl className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-1">
      {rows.map(([key, says]) => (
        <div key={key} className="contents">
          <dt className="num font-bold">{key}</dt>
          <dd>{says}</dd>
        </div>
      ))}
    </dl>
  );
}
