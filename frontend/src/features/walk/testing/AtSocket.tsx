import { useState } from "react";
import { backWord } from "../../../format/format";
import { Button } from "../../../ui/Button";
import { OneOf } from "../../../ui/OneOf";
import { RelaySocket } from "../../../ui/told/RelaySocket";
import type { Walk } from "../api";
import { useWalkActs } from "../useWalkActs";

const CAME = [
  ["right", "It runs"],
  ["partly", "It runs weakly"],
  ["none", "Nothing"],
] as const;

/** The relay at its socket: what each hole should read, and 30 and 87 joined to run the load. */
export function AtSocket({ walk }: { walk: Walk }) {
  const { take, tryOut } = useWalkActs(walk);
  const [fitted, setFitted] = useState("in");
  const [typed, setTyped] = useState<Record<string, string>>({});
  const [wrong, setWrong] = useState<string | null>(null);
  const at = (hole: string) => walk.socket.find((h) => h.hole === hole)?.point ?? "";
  const post = walk.loop.back.at(-1)?.exit ?? "";
  // With the relay out its contact is open: what 87 shows then is no reading of the wiring as drawn.
  const holes = walk.socket.filter((h) => h.point && (fitted === "in" || h.hole === "30"));
  const keep = async (hole: string) => {
    const text = (typed[hole] ?? "").trim();
    if (!text) return;
    const trouble = await take(
      { quantity: "volts", red: at(hole), black: post, typed: text },
      `hole ${hole} of the relay's socket`,
    );
    setWrong(trouble);
    if (trouble === null) setTyped((now) => ({ ...now, [hole]: "" }));
  };
  const joined = async (outcome: "right" | "partly" | "none") =>
    setWrong(await tryOut({ kind: "bridge", start: at("30"), end: at("87"), outcome, volts: "" }));
  return (
    <details className="mt-3 rounded-lg border border-rule bg-plate px-3">
      <summary className="min-h-11 py-3 font-bold">At the relay's socket</summary>
      <div className="space-y-2 pb-3">
        <RelaySocket socket={walk.socket} />
        <OneOf
          label="Whether the relay is in"
          value={fitted}
          choices={[
            { id: "in", name: "relay fitted, switched on" },
            { id: "out", name: "relay pulled" },
          ]}
          onPick={setFitted}
        />
        {holes.map((h) => (
          <div key={h.hole} className="flex items-center gap-2">
            <span className="min-w-0 flex-1">
              <b className="num">{h.hole}</b> to the {backWord()} post{" "}
              <span className="block text-[13px] text-soft">
                {fitted === "in" ? h.fitted : h.out}
              </span>
            </span>
            <input
              aria-label={`hole ${h.hole}, volts`}
              inputMode="decimal"
              autoComplete="off"
              value={typed[h.hole] ?? ""}
              onChange={(e) => setTyped((now) => ({ ...now, [h.hole]: e.target.value }))}
              onKeyDown={(e) => e.key === "Enter" && keep(h.hole)}
              className="num h-12 w-24 rounded border border-rule bg-canvas px-2 text-right text-lg"
            />
            <Button onClick={() => keep(h.hole)}>Save</Button>
          </div>
        ))}
        <p className="font-bold">30 and 87 joined with a fused jumper, relay out:</p>
        <div className="grid grid-cols-3 gap-2">
          {CAME.map(([outcome, word]) => (
            <Button key={outcome} className="min-h-14 px-1" onClick={() => joined(outcome)}>
              {word}
            </Button>
          ))}
        </div>
        {wrong && (
          <p role="alert" className="text-over">
            {wrong}
          </p>
        )}
      </div>
    </details>
  );
}
