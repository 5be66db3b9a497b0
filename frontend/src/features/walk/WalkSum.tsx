import type { Schema } from "../../api/client";
import { brief, type Figure, sideWord } from "../../format/format";
import { TypedWrong } from "../../ui/told/TypedWrong";
import { VerdictWord } from "../../ui/told/Verdict";
import type { Walk } from "./api";
import { useWalkActs } from "./useWalkActs";

/** The sum and the verdict in one line that stays in sight in the hand. */
export function SumBar({ walk }: { walk: Walk }) {
  const { foot } = walk;
  const v = (value: Figure | null) => (value === null ? "?" : brief(value));
  return (
    <div
      data-testid="sum-bar"
      className="sticky bottom-0 z-10 -mx-3 flex items-center gap-3 border-t border-line bg-rail px-3 py-1.5 lg:hidden"
    >
      <p className="num min-w-0 flex-1 truncate text-[14px]">
        {v(foot.source_v)} = {v(foot.feed_v)} + {v(foot.load_v)} + {v(foot.return_v)} +{" "}
        {v(foot.unaccounted_v)}
      </p>
      <span role="status">
        <VerdictWord verdict={walk.verdict} className="text-[14px]" />
      </span>
    </div>
  );
}

/** Findings whose advice is the caution against a hot joint, which stands above them. */
const BURNING = new Set<Schema["FindingOut"]["code"]>(["burns", "surface_hot"]);

/** The account so far, what nobody has measured, what the readings say of one another. */
export function WalkSum({ walk }: { walk: Walk }) {
  const { foot } = walk;
  const { take } = useWalkActs(walk);
  const hot = walk.cautions.some((c) => c.id === "hot_joint");
  const part = (name: string, value: Figure | null) => (
    <span className="whitespace-nowrap">
      <b className="num">{value === null ? "?" : brief(value)}</b>{" "}
      <span className="text-soft">
        {sideWord(name)}
        {foot.holds[name] && ` with ${foot.holds[name]}`}
      </span>
    </span>
  );
  return (
    <section aria-label="The account so far" className="space-y-1">
      <p className="text-[15px]">
        {part("source", foot.source_v)} = {part("feed", foot.feed_v)} + {part("load", foot.load_v)}{" "}
        + {part("return", foot.return_v)} + {part("unaccounted", foot.unaccounted_v)}
      </p>
      {walk.verdict_says && walk.ending === "" && (
        <p data-testid="verdict-says" className="font-bold">
          {walk.verdict_says}
        </p>
      )}
      {walk.unaccounted_says && <p data-testid="unaccounted">{walk.unaccounted_says}</p>}
      {walk.cautions.map((c) => (
        <p key={c.id} role="note" className="hatch-over rounded p-2">
          <b>{c.when}.</b> {c.says}
        </p>
      ))}
      {walk.findings.map((f) => (
        <p key={f.says + f.readings.join()} className="border-l-2 border-ochre pl-2">
          {f.says} {!(hot && BURNING.has(f.code)) && <span className="text-soft">{f.do}</span>}
        </p>
      ))}
      <TypedWrong
        doubted={walk.doubted}
        onWrong={({ reading, says, quantity, red, black, scenario }) =>
          take({ quantity, red, black, scenario, typed: "", supersedes: reading }, says)
        }
      />
      <p className="text-[12px] text-soft">
        {walk.scenario_name} · {walk.meter}
      </p>
    </section>
  );
}
