import type { Schema, Sheet } from "../../../api/client";
import { brief, type Figure, sideWord } from "../../../format/format";
import { about, Why } from "../../../ui/Why";
import { passOnShow } from "../desk";

const BASIS = { predicted: "calculated", as_found: "as found", as_left: "as left" };

/** The account, always: source = feed + load + return + what is unaccounted for. */
export function FootLine({ sheet }: { sheet: Sheet }) {
  const pass = passOnShow(sheet);
  const measured = pass ? sheet.run[pass].foot : null;
  const foot: Schema["Foot"] =
    measured &&
    (measured.source_v !== null || measured.load_v !== null || sheet.run.predicted.load_v === null)
      ? measured
      : sheet.run.predicted;
  const open = foot.closes === false;
  const lines = foot.basis === "predicted" ? sheet.run.working : [];
  const part = (name: string, value: Figure | null) => (
    <span className="whitespace-nowrap">
      <Why title={sideWord(name)} lines={about(lines, name, "load_v")} stop>
        <b className="num">{value === null ? "?" : brief(value)}</b>
      </Why>{" "}
      <span className="text-soft">
        {sideWord(name)}
        {foot.by_difference.includes(name) ? "*" : ""}
        {foot.holds[name] && ` with ${foot.holds[name]}`}
      </span>
    </span>
  );
  return (
    <footer className="sticky bottom-0 z-20 flex flex-wrap items-baseline gap-x-2 gap-y-0.5 border-t border-line bg-rail px-4 py-2.5 text-[15px]">
      {part("source", foot.source_v)} = {part("feed", foot.feed_v)} + {part("load", foot.load_v)} +{" "}
      {part("return", foot.return_v)} +{" "}
      <span className={open ? "hatch-over rounded px-1 text-over" : ""}>
        {part("unaccounted", foot.unaccounted_v)}
      </span>
      <span className="ml-auto text-[13px] text-soft">
        {BASIS[foot.basis]}
        {foot.by_difference.length > 0 && " · * worked out from the other readings, not checked"}
        {open && " · does not add up"}
        {foot.closes && foot.basis !== "predicted" && " · adds up within meter accuracy"}
      </span>
    </footer>
  );
}
