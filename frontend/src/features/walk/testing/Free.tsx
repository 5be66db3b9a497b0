import { useEffect, useRef, useState } from "react";
import { Button } from "../../../ui/Button";
import { OneOf } from "../../../ui/OneOf";
import { TextField } from "../../../ui/TextField";
import { wrongWith } from "../../../ui/told/wrong";
import { useFreePoint, type Walk } from "../api";
import { BigEntry } from "../card/BigEntry";
import { useMilli } from "../card/milli";
import { PointPick } from "../card/PointPick";
import { type LeadsOn, useOpened } from "../opened";
import { type Reading, useWalkActs } from "../useWalkActs";

type What = Reading["quantity"] | "moved" | "bench";
const WHAT = [
  { id: "volts", name: "Volts" },
  { id: "amperes", name: "Current" },
  { id: "moved", name: "Wiggle test" },
  { id: "bench", name: "Load on the bench" },
  { id: "ohms", name: "Ohms, power off" },
  { id: "lamp", name: "Test lamp" },
  { id: "kelvin", name: "Surface, warm" },
];
const RIPPLE = { id: "ripple", name: "Ripple" };
const UNITS: Record<Exclude<What, "lamp">, string> = {
  volts: "V",
  amperes: "A",
  bench: "A",
  kelvin: "°",
  ohms: "Ω",
  moved: "V",
  ripple: "V",
};
/** What a meter may show in thousandths. */
const MILLI: ReadonlySet<What> = new Set(["volts", "amperes", "bench", "moved", "ripple"]);
const SAYS: Record<What, string> = {
  volts: "",
  amperes: "",
  moved:
    "Set MIN/MAX and wiggle, tighten or warm one thing at a time. Where the reading changes, the fault is there.",
  bench: "The load by itself, unplugged from the craft: its current, and at what volts.",
  ohms: "Continuity check only: open or closed, switch pressed or released. One last strand reads like a sound wire.",
  lamp: "Continuity check only: lit shows a path with voltage behind it, dark shows none. One last strand lights a lamp.",
  ripple:
    "The AC part while charging, at the source's posts: much of it hints at a failed rectifier.",
  kelvin:
    "Two places side by side: the joint, and the cable beside it. Or only how much warmer it is.",
};

/** Any two points, in any order, and what is no drop: as easy as following the walk. */
export function Free({ walk, opened }: { walk: Walk; opened: LeadsOn | null }) {
  const part = useRef<HTMLDetailsElement>(null);
  useOpened(part, opened, ["elsewhere", "bench"]);
  useEffect(() => {
    if (opened?.what === "bench") setWhat("bench");
  }, [opened]);
  const { take } = useWalkActs(walk);
  const points = walk.points;
  const [red, setRed] = useState(points[0]?.id ?? "");
  const [black, setBlack] = useState(points[points.length - 1]?.id ?? "");
  const [what, setWhat] = useState<What>("volts");
  const [more, setMore] = useState({ leads: "", beside: "", least: "", moved: "", bench: "" });
  const [off, setOff] = useState("closed");
  const every = [...points, ...walk.loop.others];
  const name = (id: string) => every.find((p) => p.id === id)?.name ?? id;
  const pieces = [...walk.loop.feed, ...walk.loop.back];
  const moved = more.moved || (pieces[0]?.id ?? "");
  const title = `${name(red)} to ${name(black)}`;
  const unit = what !== "lamp" && UNITS[what] === "A" ? "A" : "V";
  const milli = useMilli({ card: `${what} ${red} ${black}`, unit, low: false, most: null }, "");
  const keep = async (typed: string, extra: Record<string, string>) => {
    const at = { red, black, typed, ...extra };
    const resting = atRest(walk, off);
    if (what === "lamp") return take({ ...at, ...resting, quantity: "lamp" }, title);
    if (what === "ohms") {
      return take({ ...at, ...resting, quantity: "ohms", leads: more.leads }, title);
    }
    if (what === "bench") {
      const [from, to] = terminals(walk);
      const alone = { states: { [walk.run]: "unplugged" as const }, source: more.bench };
      const name = `${walk.run_name} on the bench`;
      return take({ ...at, ...alone, red: from, black: to, quantity: "amperes" }, name);
    }
    if (what === "kelvin") return take({ ...at, quantity: "kelvin", beside: more.beside }, title);
    if (what !== "moved") return take({ ...at, quantity: what }, title);
    const held = { ...at, quantity: "volts" as const, moved };
    const low = await take({ ...held, typed: milli.said(more.least), hold: "least" }, title);
    return low ?? take({ ...held, hold: "most" }, title);
  };
  const field = (key: keyof typeof more, label: string) => (
    <TextField
      label={label}
      numeric
      value={more[key]}
      onChange={(value) => setMore((now) => ({ ...now, [key]: value }))}
    />
  );
  return (
    <details ref={part} className="mt-3 rounded-lg border border-rule bg-plate px-3">
      <summary className="min-h-11 py-3 font-bold">Measure anything else</summary>
      <div className="space-y-2 pb-3">
        <OneOf
          label="What is measured"
          value={what}
          choices={walk.moment.asks_rpm ? [...WHAT, RIPPLE] : WHAT}
          onPick={(w) => setWhat(w as What)}
        />
        {SAYS[what] && <p className="text-[14px] text-soft">{SAYS[what]}</p>}
        {what !== "bench" && (
          <div className="grid grid-cols-2 gap-2">
            <PointPick walk={walk} label="RED lead on" lead="red" value={red} onPick={setRed} />
            <PointPick
              walk={walk}
              label="BLACK lead on"
              lead="black"
              value={black}
              onPick={setBlack}
            />
          </div>
        )}
        {(what === "ohms" || what === "lamp") && (
          <OneOf
            label={`${walk.run_name} meanwhile`}
            value={off}
            choices={waysOff(walk)}
            onPick={setOff}
          />
        )}
        {what === "bench" && field("bench", "Volts at it, on the bench")}
        {what === "ohms" && field("leads", "Of which test leads, Ω")}
        {what === "kelvin" &&
          field("beside", "Cable next to it (leave empty if you typed the rise, in K)")}
        {what === "moved" && (
          <div className="grid grid-cols-2 gap-2">
            <label className="block text-[13px] text-soft">
              What is moved
              <select
                value={moved}
                onChange={(e) => setMore((now) => ({ ...now, moved: e.target.value }))}
                className="min-h-11 w-full rounded border border-rule bg-canvas px-2 text-ink"
              >
                {pieces.map((p) => (
                  <option key={p.id} value={p.id}>
                    {p.name}
                  </option>
                ))}
              </select>
            </label>
            {field("least", `MIN reading, ${milli.on ? "mV" : "V"} (MAX goes below)`)}
          </div>
        )}
        {what === "lamp" ? (
          <Burns onSaid={(how) => keep(how, {})} />
        ) : (
          <BigEntry
            label={what === "bench" ? "Current on the bench" : "Any two points"}
            unit={UNITS[what]}
            milli={MILLI.has(what) ? milli : undefined}
            onRead={keep}
          />
        )}
        <OwnPoint walk={walk} onMade={setBlack} />
      </div>
    </details>
  );
}

/** How the load may be off while nothing but a fault keeps volts from a point, or a contact does. */
function waysOff(walk: Walk) {
  const contacts = walk.moment.contacts;
  return [
    { id: "closed", name: contacts.length > 0 ? "unplugged, contacts closed" : "unplugged" },
    ...contacts.map((c) => ({ id: c.id, name: `unplugged, ${c.name} open` })),
    { id: "off", name: "off, contacts as they are" },
  ];
}

function atRest(walk: Walk, off: string): Pick<Reading, "states" | "contacts"> {
  if (off === "off") return { states: { [walk.run]: "off" } };
  const stand = (id: string) => (id === off ? ("open" as const) : ("closed" as const));
  return {
    states: { [walk.run]: "unplugged" },
    contacts: Object.fromEntries(walk.moment.contacts.map((c) => [c.id, stand(c.id)])),
  };
}

/** The load's own two points, where its current is taken. */
function terminals(walk: Walk): [string, string] {
  return [walk.loop.feed.at(-1)?.exit ?? "", walk.loop.back[0]?.entry ?? ""];
}

/** How a test lamp burns, one touch each. */
function Burns({ onSaid }: { onSaid: (how: string) => Promise<string | null> }) {
  const [wrong, setWrong] = useState<string | null>(null);
  return (
    <>
      <fieldset className="grid grid-cols-3 gap-1.5" aria-label="The test lamp is">
        {["lit", "dim", "dark"].map((how) => (
          <Button
            key={how}
            className="h-14 text-lg first-letter:uppercase"
            onClick={async () => setWrong(await onSaid(how))}
          >
            {how}
          </Button>
        ))}
      </fieldset>
      {wrong && (
        <p role="alert" className="text-over">
          {wrong}
        </p>
      )}
    </>
  );
}

/** A point that nothing drawn joins: a ground nearby, the engine block. */
function OwnPoint({ walk, onMade }: { walk: Walk; onMade: (point: string) => void }) {
  const [name, setName] = useState("");
  const making = useFreePoint(walk);
  return (
    <form
      className="flex items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        making.mutate(name, {
          onSuccess: (made) => {
            setName("");
            onMade(made.points[0] ?? "");
          },
        });
      }}
    >
      <TextField
        className="flex-1"
        label="Your own reference point: measure it against the post once, then use it instead of the post"
        hint="engine block"
        value={name}
        onChange={setName}
        wrong={wrongWith(making.error, "name")}
      />
      <Button type="submit" disabled={making.isPending}>
        Add it
      </Button>
    </form>
  );
}
