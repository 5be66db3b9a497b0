import { useState } from "react";
import { backWord } from "../../../format/format";
import { Button } from "../../../ui/Button";
import { OneOf } from "../../../ui/OneOf";
import { TextField } from "../../../ui/TextField";
import type { Walk } from "../api";
import { PointPick } from "../card/PointPick";
import { useWalkActs } from "../useWalkActs";

type Kind = "bridge" | "feed" | "return";
const CAME = [
  ["right", "Works normally"],
  ["partly", "Works better"],
  ["none", "No change"],
] as const;

/** The two points that a kind of trial joins, to begin with. */
function usual(walk: Walk, kind: Kind): [string, string] {
  const { feed, back } = walk.loop;
  const live = feed[0]?.entry ?? "";
  const post = back.at(-1)?.exit ?? "";
  if (kind === "feed") return [live, feed.at(-1)?.exit ?? ""];
  if (kind === "return") return [back[0]?.entry ?? "", post];
  const every = [...feed, ...back];
  const worst = [...every].sort((a, b) => b.suspicion - a.suspicion)[0];
  return [worst?.entry ?? "", worst?.exit ?? ""];
}

/** Something joined for a moment while the load is commanded on, and how the load came out of it. */
export function Tried({ walk }: { walk: Walk }) {
  const { tryOut } = useWalkActs(walk);
  const [kind, setKind] = useState<Kind>("bridge");
  const [ends, setEnds] = useState<[string, string] | null>(null);
  const [volts, setVolts] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  const [start, end] = ends ?? usual(walk, kind);
  const keep = async (outcome: "right" | "partly" | "none" | null) => {
    const trouble = await tryOut({ kind, start, end, outcome, volts });
    setWrong(trouble);
    if (trouble === null) setVolts("");
  };
  return (
    <details className="mt-3 rounded-lg border border-rule bg-plate px-3">
      <summary className="min-h-11 py-3 font-bold">
        Try something out{walk.trials.length > 0 && ` (${walk.trials.length})`}
      </summary>
      <p className="text-[14px] text-soft">
        Use a fused lead only, fused for the wire, with the load switched on. Seconds, not minutes.
        The result counts as a reading.
      </p>
      <div className="mt-2">
        <OneOf
          label="What is tried"
          value={kind}
          choices={[
            { id: "bridge", name: "Bridge" },
            { id: "feed", name: "Direct feed" },
            { id: "return", name: `Temporary ${backWord()}` },
          ]}
          onPick={(next) => {
            setKind(next as Kind);
            setEnds(null);
          }}
        />
      </div>
      <div className="mt-2 grid grid-cols-2 gap-2">
        <PointPick
          walk={walk}
          label={kind === "feed" ? "From the live point" : "From"}
          value={start}
          onPick={(p) => setEnds([p, end])}
        />
        <PointPick
          walk={walk}
          label={kind === "return" ? "To the known-good point" : "To"}
          value={end}
          onPick={(p) => setEnds([start, p])}
        />
      </div>
      <TextField
        className="mt-2"
        label="Voltage at the load during the test, if read"
        value={volts}
        onChange={setVolts}
        numeric
      />
      <div className="mt-2 grid grid-cols-3 gap-2">
        {CAME.map(([outcome, word]) => (
          <Button key={outcome} className="min-h-14 px-1" onClick={() => keep(outcome)}>
            {word}
          </Button>
        ))}
      </div>
      {volts.trim() !== "" && (
        <Button className="mt-2 w-full" onClick={() => keep(null)}>
          Save the voltage only
        </Button>
      )}
      {wrong && (
        <p role="alert" className="mt-1 text-over">
          {wrong}
        </p>
      )}
      <ul className="mt-2 pb-3 text-[14px]">
        {walk.trials.map((t) => (
          <li key={t.id}>{t.says}</li>
        ))}
      </ul>
    </details>
  );
}
