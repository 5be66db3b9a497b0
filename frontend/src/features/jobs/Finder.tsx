import { Search } from "lucide-react";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import type { Schema } from "../../api/client";
import { Button } from "../../ui/Button";
import { Pick, TextField } from "../../ui/TextField";

/** How far a job has come, in words. */
export const STATES: Record<NonNullable<Schema["ListedJob"]["state"]>, string> = {
  drawn: "drawn up",
  read: "read as found",
  planned: "planned",
  left: "read as left",
  signed: "signed",
};
const ASKED = ["words", "craft", "customer", "kind", "fault", "state", "since", "until", "away"];
const NARROWING = ["kind", "fault", "state", "since", "until"];

/** What an address asks for: only what narrows the list, in a fixed order. */
export function askedOf(words: URLSearchParams): URLSearchParams {
  const said = ASKED.map((key): [string, string] => [key, words.get(key) ?? ""]);
  return new URLSearchParams(said.filter(([, value]) => value));
}

interface Props {
  asked: URLSearchParams;
  list: Schema["JobList"];
  set: (asked: URLSearchParams, how: { replace: boolean }) => void;
}

/** Find jobs by words, and narrow them by what they are about, when, and how far they are. */
export function Finder({ asked, list, set }: Props) {
  const [typed, setTyped] = useState(asked.get("words") ?? "");
  const craft = asked.get("craft");
  const away = asked.get("away");
  const say = (key: string, value: string) => {
    const next = new URLSearchParams(asked);
    if (value) next.set(key, value);
    else next.delete(key);
    set(next, { replace: true });
  };
  const words = asked.get("words") ?? "";
  useEffect(() => setTyped(words), [words]);
  const narrowed = NARROWING.filter((key) => asked.get(key)).length;
  const kinds = list.kinds.map((k): [string, string] => [k.id, k.name.toLowerCase()]);
  return (
    <section aria-label="Find jobs" className="mb-3">
      {(craft || away === "yes") && (
        <p className="mb-2 flex flex-wrap items-baseline gap-x-4">
          <b className="text-lg">{craft ? `All jobs of ${craft}` : "Archive"}</b>
          <Link to="/" className="inline-flex min-h-11 items-center text-slate underline">
            Back to the shelf
          </Link>
        </p>
      )}
      <div className="flex flex-wrap items-center gap-2">
        <label className="relative min-w-52 flex-1">
          <span className="sr-only">Find by words</span>
          <Search size={16} aria-hidden className="absolute top-1/2 left-2 -translate-y-1/2" />
          <input
            type="search"
            value={typed}
            placeholder="craft, customer, complaint, load, what was found"
            onChange={(e) => {
              setTyped(e.target.value);
              say("words", e.target.value.trim());
            }}
            className="min-h-11 w-full rounded border border-rule bg-plate pr-2 pl-8 lg:min-h-9"
          />
        </label>
        {asked.size > 0 && (
          <>
            <span role="status" className="text-soft">
              {list.total} {list.total === 1 ? "job" : "jobs"}
              {list.waiting > 0 && `; ${list.waiting} still to be added up`}
            </span>
            <Button onClick={() => set(new URLSearchParams(), { replace: true })}>Show all</Button>
          </>
        )}
      </div>
      <details open={narrowed > 0} className="mt-1">
        <summary className="min-h-11 py-3 text-soft lg:min-h-8 lg:py-1.5">
          filters{narrowed > 0 && ` (${narrowed})`}
        </summary>
        <div className="grid grid-cols-2 gap-2 sm:grid-cols-5">
          <Pick
            label="Found at fault"
            value={asked.get("fault") ?? ""}
            choices={[
              ["", "–"],
              ["any", "anything"],
              ...kinds,
              ["load", "the load"],
              ["source", "the source"],
            ]}
            onPick={(value) => say("fault", value)}
          />
          <Pick
            label="Has a piece"
            value={asked.get("kind") ?? ""}
            choices={[["", "–"], ...kinds]}
            onPick={(value) => say("kind", value)}
          />
          <Pick
            label="How far"
            value={asked.get("state") ?? ""}
            choices={[["", "–"], ...Object.entries(STATES)]}
            onPick={(value) => say("state", value)}
          />
          <DayField label="From" value={asked.get("since") ?? ""} onDay={(v) => say("since", v)} />
          <DayField label="Until" value={asked.get("until") ?? ""} onDay={(v) => say("until", v)} />
        </div>
      </details>
    </section>
  );
}

/** A day, kept once it is whole. */
function DayField({
  label,
  value,
  onDay,
}: {
  label: string;
  value: string;
  onDay: (day: string) => void;
}) {
  const [typed, setTyped] = useState(value);
  useEffect(() => setTyped(value), [value]);
  const whole = /^\d{4}-\d\d-\d\d$/;
  return (
    <TextField
      label={label}
      hint="2026-05-31"
      value={typed}
      wrong={typed && !whole.test(typed) && typed.length >= 10 ? "a day, as 2026-05-31" : null}
      onChange={(text) => {
        setTyped(text);
        if (!text || whole.test(text)) onDay(text);
      }}
    />
  );
}
