import { useRef, useState } from "react";
import { sentence } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { OneOf } from "../../../ui/OneOf";
import { type Swept, useAtRest, type Walk } from "../api";
import { type LeadsOn, useOpened } from "../opened";
import { type Reading, useWalkActs } from "../useWalkActs";

const SIDES = [
  { id: "feed", name: "the feed" },
  { id: "return", name: "the return" },
];

/** The sweep at rest: one lead parked on a post, the other walks from point to point. */
export function AtRest({ walk, opened }: { walk: Walk; opened: LeadsOn | null }) {
  const part = useRef<HTMLDetailsElement>(null);
  useOpened(part, opened, ["at_rest"]);
  const [open, setOpen] = useState(false);
  const contacts = walk.moment.contacts;
  const [how, setHow] = useState(contacts.findLast((c) => c.kind === "switch")?.id ?? "off");
  const contact = contacts.some((c) => c.id === how) ? how : null;
  const [side, setSide] = useState<"feed" | "return">("feed");
  const sweep = useAtRest(walk, side, contact, open);
  // As they are where the points are swept: the walk may not have come yet. A relay's contact falls open by
  // itself when the load is switched off by its coil.
  const on = (sweep.data?.contacts ?? []).filter(
    (c) => c.id !== contact && c.kind !== "relay_contact" && c.state === "closed",
  );
  const moment = {
    states: { [walk.run]: how === "unplugged" ? ("unplugged" as const) : ("off" as const) },
    contacts: {
      ...Object.fromEntries(on.map((c) => [c.id, "closed" as const])),
      ...(contact ? { [contact]: "open" as const } : {}),
    },
  };
  const choices = [
    ...contacts.map((c) => ({ id: c.id, name: `off by ${c.name}` })),
    { id: "off", name: contacts.length > 0 ? "off otherwise" : "off" },
    { id: "unplugged", name: "unplugged" },
  ];
  return (
    <details
      ref={part}
      className="mt-3 rounded-lg border border-rule bg-plate px-3"
      onToggle={(e) => setOpen(e.currentTarget.open)}
    >
      <summary className="min-h-11 py-3 font-bold">Find an open, load off</summary>
      {sweep.isError && (
        <p role="alert" className="text-over">
          {sentence(sweep.error)}
        </p>
      )}
      {sweep.data && (
        <div className="pb-3">
          <p className="text-[14px] text-soft">
            {walk.run_name} off
            {on.length > 0 && `; leave ${on.map((c) => c.name).join(", ")} on`}. Keep{" "}
            {side === "feed" ? "black" : "red"} on {sweep.data.parked.name}: you read source voltage
            up to an open, and nothing past it. This finds opens; it says nothing about voltage
            drop.
          </p>
          <div className="mt-2 space-y-2">
            <OneOf
              label="Which side to search"
              value={side}
              choices={SIDES}
              onPick={(id) => setSide(id as "feed" | "return")}
            />
            <OneOf label="How the load is off" value={how} choices={choices} onPick={setHow} />
          </div>
          <ul className="mt-2 divide-y divide-line border-y border-line">
            {sweep.data.points.map((p) => (
              <Point
                key={p.point.id}
                walk={walk}
                swept={p}
                leads={
                  side === "feed"
                    ? { red: p.point.id, black: sweep.data.parked.id }
                    : { red: sweep.data.parked.id, black: p.point.id }
                }
                moment={moment}
              />
            ))}
          </ul>
          {sweep.data.says.map((says) => (
            <p key={says} className="mt-2 border-l-2 border-over pl-2 font-bold">
              {says}
            </p>
          ))}
        </div>
      )}
    </details>
  );
}

function Point({
  walk,
  swept,
  leads,
  moment,
}: {
  walk: Walk;
  swept: Swept;
  leads: { red: string; black: string };
  /** How the load is off, and the contacts that stand open or closed meanwhile. */
  moment: Pick<Reading, "states" | "contacts">;
}) {
  const { take } = useWalkActs(walk);
  const [typed, setTyped] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  const keep = async (text: string) => {
    if (!text) return;
    // It leaves the box when it is sent, so that leaving the box does not send it again.
    setTyped("");
    const trouble = await take(
      {
        quantity: "volts",
        ...leads,
        typed: text,
        ...moment,
      },
      `${swept.point.name}, at rest`,
    );
    setWrong(trouble);
    if (trouble !== null) setTyped((since) => since || text);
  };
  const sign = swept.good === null ? "" : swept.good ? "✓ as expected" : "▲ not as expected";
  return (
    <li className="py-1.5">
      <div className="flex items-center gap-2">
        <span className="min-w-0 flex-1 leading-tight">
          {swept.point.name}
          <span className="block text-[13px] text-soft">
            {swept.should}
            {swept.typed && ` · read ${swept.typed} `}
            <b className={swept.good === false ? "text-over" : "text-slate"}>{sign}</b>
          </span>
        </span>
        <input
          aria-label={`${swept.point.name} at rest, volts`}
          inputMode="decimal"
          autoComplete="off"
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
          onBlur={() => keep(typed.trim())}
          onKeyDown={(e) => e.key === "Enter" && keep(typed.trim())}
          className="num h-12 w-24 rounded border border-rule bg-canvas px-2 text-right text-lg"
        />
        <Button
          aria-label={`Won't settle at ${swept.point.name}`}
          className="w-16 px-1 leading-tight"
          onClick={() => keep("wandering")}
        >
          Won't settle
        </Button>
      </div>
      {wrong && (
        <p role="alert" className="text-[13px] text-over">
          {wrong}
        </p>
      )}
    </li>
  );
}
