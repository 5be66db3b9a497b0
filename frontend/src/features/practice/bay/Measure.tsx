import { useState } from "react";
import { Button } from "../../../ui/Button";
import { LoopPicture } from "../../../ui/LoopPicture";
import { OneOf } from "../../../ui/OneOf";
import { Pick } from "../../../ui/TextField";
import type { Bay, useAct } from "../api";
import { type How, laid, PLAIN, RANGES, TOOLS, type Tool } from "./tools";

interface Props {
  bay: Bay;
  act: ReturnType<typeof useAct>;
}

/** The loop, the meter, and what is laid on it: two points tapped, or chosen from lists, are measured. */
export function Measure({ bay, act }: Props) {
  const [tool, setTool] = useState<Tool>("volts");
  const [red, setRed] = useState("");
  const [black, setBlack] = useState("");
  const [picked, setPicked] = useState<string | null>(null);
  const [how, setHow] = useState<How>(PLAIN);
  const name = (id: string) => bay.points.find((p) => p.id === id)?.name ?? "nothing";
  const off = bay.ended;
  const measure = (r: string, b: string) => {
    setRed(r);
    setBlack(b);
    setPicked(null);
    act.mutate(laid(tool, r, b, how));
  };
  const tap = (point: string) => {
    if (off || tool === "amperes") return;
    if (picked === null) setPicked(point);
    else if (picked === point) setPicked(null);
    else measure(picked, point);
  };
  const shown = [picked ?? bay.red, picked === null ? bay.black : ""] as const;
  return (
    <section aria-label="Measure">
      {bay.loops.map((loop) => (
        <div key={loop.load}>
          {bay.loops.length > 1 && <p className="text-[13px] text-soft">{loop.load}</p>}
          <LoopPicture
            loop={loop}
            red={shown[0]}
            black={shown[1]}
            picked={picked}
            onPick={tap}
            name={name}
          />
        </div>
      ))}
      <Meter bay={bay} picked={picked === null ? null : name(picked)} tool={tool} />
      <div className="mt-2">
        <OneOf
          label="With what"
          value={tool}
          choices={[...TOOLS]}
          onPick={(id) => {
            setTool(id as Tool);
            setPicked(null);
          }}
        />
      </div>
      {tool === "amperes" ? (
        <Clamp bay={bay} act={act} />
      ) : (
        <form
          className="mt-2 grid gap-2 sm:grid-cols-[minmax(0,1fr)_minmax(0,1fr)_auto]"
          onSubmit={(e) => {
            e.preventDefault();
            measure(red, black);
          }}
        >
          <Pick
            label={tool === "join" ? "From" : "Red on"}
            value={red}
            choices={points(bay)}
            onPick={setRed}
          />
          <Pick
            label={tool === "join" ? "To" : "Black on"}
            value={black}
            choices={points(bay)}
            onPick={setBlack}
          />
          <Button type="submit" tone="strong" className="self-end" disabled={off}>
            {tool === "join" ? "Join them" : tool === "stand_in" ? "Hang it there" : "Measure"}
          </Button>
        </form>
      )}
      {tool === "volts" && <HowBox bay={bay} how={how} onChange={setHow} />}
      {tool === "ohms" && bay.power && (
        <p className="mt-1 text-ochre">Disconnect the battery first: ohms need a dead circuit.</p>
      )}
      {tool === "stand_in" && (
        <p className="mt-1 text-soft">
          A lamp that draws as much as the load. Unplug the load first.
        </p>
      )}
    </section>
  );
}

const points = (bay: Bay): [string, string][] => [
  ["", "nothing"],
  ...bay.points.map((p): [string, string] => [p.id, `${p.name}, ${p.minutes} min`]),
];

/** What the meter shows, as large as one would read it. */
function Meter({ bay, picked, tool }: { bay: Bay; picked: string | null; tool: Tool }) {
  return (
    <div
      role="status"
      aria-label="Meter"
      className="mt-1 flex min-h-20 items-center gap-3 rounded-lg border-2 border-ink bg-plate px-4 py-2"
    >
      <p className="min-w-0 flex-1 text-[14px] break-words">
        {picked
          ? tool === "join"
            ? `From ${picked}. Now tap where the wire ends.`
            : `Red on ${picked}. Now tap the point for black.`
          : bay.display.says || "Tap two points: red first, then black."}
      </p>
      <p data-testid="shown" className="num text-right text-3xl font-bold">
        {picked ? "" : bay.display.shown || "–"}
      </p>
    </div>
  );
}

function Clamp({ bay, act }: Props) {
  const loads = bay.loads.map((l): [string, string] => [l.id, l.name]);
  const wires = bay.things
    .filter((t) => t.kind === "conductor")
    .map((t): [string, string] => [t.id, t.name]);
  const [round, setRound] = useState(bay.loads.find((l) => l.own)?.id ?? "");
  return (
    <form
      className="mt-2 flex flex-wrap items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        act.mutate({ kind: "amperes", element: round });
      }}
    >
      <Pick
        label="Clamp round"
        value={round}
        choices={[...loads, ...wires]}
        onPick={setRound}
        className="flex-1"
      />
      <Button disabled={bay.ended} onClick={() => act.mutate({ kind: "zero" })}>
        Zero it
      </Button>
      <Button type="submit" tone="strong" disabled={bay.ended}>
        Measure
      </Button>
    </form>
  );
}

/** Range, something moved while the meter keeps least and most, over a start. */
function HowBox({ bay, how, onChange }: { bay: Bay; how: How; onChange: (how: How) => void }) {
  const pieces = bay.things.filter((t) => t.kind !== "load" && t.kind !== "source");
  const plain = how.range === "" && how.moved === "" && !how.start;
  return (
    <details className="mt-1" open={!plain}>
      <summary className="min-h-11 py-3 text-[14px] text-soft lg:min-h-8 lg:py-1.5">
        Range, least and most
      </summary>
      <div className="grid gap-2 sm:grid-cols-2">
        <Pick
          label="Range"
          value={how.range}
          choices={RANGES}
          onPick={(range) => onChange({ ...how, range })}
        />
        <Pick
          label="Keep least and most while moving"
          value={how.moved}
          choices={[["", "nothing"], ...pieces.map((p): [string, string] => [p.id, p.name])]}
          onPick={(moved) => onChange({ ...how, moved, start: false })}
        />
        {bay.has_start && (
          <label className="flex min-h-11 items-center gap-2">
            <input
              type="checkbox"
              className="size-5"
              checked={how.start}
              onChange={(e) => onChange({ ...how, start: e.target.checked, moved: "" })}
            />
            Keep least and most over a start
          </label>
        )}
      </div>
    </details>
  );
}
