import { useQuery } from "@tanstack/react-query";
import { CloudOff } from "lucide-react";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import { call, type Schema } from "../../api/client";
import { keys } from "../../api/keys";
import { asText, drop, sendAgain, stored, useAllWaiting, type Waiting } from "../../api/outbox";
import { hindrance } from "../../api/reach";
import { Button } from "../Button";
import { Pick } from "../TextField";
import { useSay } from "./Notices";

const FEW = 3;
/** What the server takes within this time is not told of: the page would jump under the finger. */
const SOON_MS = 1500;

/** What is on this device only, of whatever job, and what was refused: the same list on every page. */
export function OnDevice() {
  const all = useAllWaiting();
  const why = hindrance.use();
  const safe = stored.use();
  const refused = all.filter((w) => w.refused);
  const long = useLasting(all.length > 0);
  if (all.length === 0 || !(long || refused.length > 0 || why || !safe)) return null;
  return (
    <section aria-label="Waiting on this device" className="dots-close no-print p-2">
      <details open={refused.length > 0 || all.length <= FEW}>
        <summary className="min-h-6 font-bold">
          <CloudOff size={16} aria-hidden className="mr-1 inline" />
          <span role="status">{says(all.length - refused.length, refused.length)}</span>
        </summary>
        {why && <p className="text-over">{why}</p>}
        {!safe && (
          <p className="text-over">
            This device cannot store it: its storage is full or closed to this page. Keep this page
            open until everything is sent.
          </p>
        )}
        <ul className="mt-1 space-y-1">
          {all.map((w) => (
            <li key={w.id}>{w.refused ? <Refused entry={w} /> : <Named entry={w} />}</li>
          ))}
        </ul>
      </details>
    </section>
  );
}

/** Whether something has been so for a while. */
function useLasting(now: boolean): boolean {
  const [lasts, setLasts] = useState(false);
  useEffect(() => {
    if (!now) return setLasts(false);
    const timer = setTimeout(() => setLasts(true), SOON_MS);
    return () => clearTimeout(timer);
  }, [now]);
  return now && lasts;
}

function Named({ entry }: { entry: Waiting }) {
  return (
    <Link to={`/jobs/${entry.job}`} className="num underline">
      {entry.name}
    </Link>
  );
}

/** One entry that was refused: why, and what can be done with it. Nothing happens to it by itself. */
function Refused({ entry }: { entry: Waiting }) {
  const [moving, setMoving] = useState(false);
  const say = useSay();
  const copy = () =>
    navigator.clipboard
      .writeText(asText(entry))
      .then(() => say("Copied."))
      .catch(() => say("This browser does not let the page copy. Write it down."));
  return (
    <div>
      <p>
        <Named entry={entry} /> <span className="text-over">{entry.refused}</span>
      </p>
      <div className="flex flex-wrap items-center gap-2">
        <Button onClick={() => void sendAgain(entry.id, { now: true })}>
          {entry.path === "photographs" ? "Send again" : "Send to the wiring as it is now"}
        </Button>
        <Button tone="quiet" onClick={() => setMoving(!moving)} aria-expanded={moving}>
          Move to another job
        </Button>
        <Button tone="quiet" onClick={copy}>
          Copy
        </Button>
        <Button tone="quiet" onClick={() => drop(entry.id)}>
          Discard
        </Button>
      </div>
      {moving && <Move entry={entry} />}
    </div>
  );
}

function Move({ entry }: { entry: Waiting }) {
  const jobs = useQuery({
    queryKey: keys.found("away=any"),
    queryFn: () => call<Schema["JobList"]>("/jobs?away=any"),
  });
  const others = (jobs.data?.jobs ?? []).filter((j) => j.id !== entry.job);
  if (jobs.isError) return <p>The jobs could not be listed. Try again later.</p>;
  return (
    <Pick
      label="Job"
      value=""
      choices={[["", "Which job?"], ...others.map((j): [string, string] => [j.id, j.title])]}
      onPick={(job) => job && void sendAgain(entry.id, { job })}
    />
  );
}

function says(waits: number, refused: number): string {
  const parts = [];
  if (waits > 0)
    parts.push(
      `${waits} ${waits === 1 ? "entry waits" : "entries wait"} on this device; sent as soon as the program answers.`,
    );
  if (refused > 0)
    parts.push(`${refused} ${refused === 1 ? "entry was" : "entries were"} not taken.`);
  return parts.join(" ");
}
