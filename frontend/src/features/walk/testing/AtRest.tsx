import { useRef, useState } from "react";
import { sentence } from "../../../api/client";
import { OneOf } from "../../../ui/OneOf";
import { type Swept, useAtRest, type Walk } from "../api";
import { type LeadsOn, useOpened } from "../opened";
import { useWalkActs } from "../useWalkActs";

/** The sweep at rest: black parked on the return post, red walks from point to point. */
export function AtRest({ walk, opened }: { walk: Walk; opened: LeadsOn | null }) {
  const part = useRef<HTMLDetailsElement>(null);
  useOpened(part, opened, ["at_rest"]);
  const [open, setOpen] = useState(false);
  const contacts = walk.moment.contacts;
  const [how, setHow] = useState(contacts.find((c) => c.kind === "switch")?.id ?? "off");
  const contact = contacts.some((c) => c.id === how) ? how : null;
  const sweep = useAtRest(walk, contact, open);
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
            {walk.run_name} off. Black stays on {sweep.data.black.name}; source volts stand up to an
            open contact, and nothing beyond. It finds opens; of drops it tells nothing.
          </p>
          <div className="mt-2">
            <OneOf label="How the load is off" value={how} choices={choices} onPick={setHow} />
          </div>
          <ul className="mt-2 divide-y divide-line border-y border-line">
            {sweep.data.points.map((p) => (
              <Point
                key={p.point.id}
                walk={walk}
                swept={p}
                black={sweep.data.black.id}
                state={how === "unplugged" ? "unplugged" : "off"}
                contact={contact}
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
  black,
  state,
  contact,
}: {
  walk: Walk;
  swept: Swept;
  black: string;
  state: "off" | "unplugged";
  /** The contact that stands open meanwhile, if one does. */
  contact: string | null;
}) {
  const { take } = useWalkActs(walk);
  const [typed, setTyped] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  const keep = async () => {
    const text = typed.trim();
    if (!text) return;
    // It leaves the box when it is sent, so that leaving the box does not send it again.
    setTyped("");
    const trouble = await take(
      {
        quantity: "volts",
        red: swept.point.id,
        black,
        typed: text,
        states: { [walk.run]: state },
        ...(contact ? { contacts: { [contact]: "open" as const } } : {}),
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
          onBlur={keep}
          onKeyDown={(e) => e.key === "Enter" && keep()}
          className="num h-12 w-24 rounded border border-rule bg-canvas px-2 text-right text-lg"
        />
      </div>
      {wrong && (
        <p role="alert" className="text-[13px] text-over">
          {wrong}
        </p>
      )}
    </li>
  );
}
