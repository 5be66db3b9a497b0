import { useEffect, useRef, useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { sentence } from "../../api/client";
import { Button } from "../../ui/Button";
import { Heading } from "../../ui/Heading";
import { Page } from "../../ui/Page";
import { TextField } from "../../ui/TextField";
import { wrongWith } from "../../ui/told/wrong";
import { type Meter, useMeters } from "../meters/api";
import { shownText } from "../meters/figure";
import { alarm } from "../meters/heard";
import { useLive } from "../meters/live";
import { useWalk, type Walk } from "../walk/api";
import { PointPick } from "../walk/card/PointPick";
import { Guards } from "../walk/Guards";
import { type Recording, useRecordingActs, useRecordings } from "./api";
import { LiveTrace } from "./LiveTrace";
import { Recordings } from "./Recordings";

/** Meters of a job as they come: recorded, a start caught, watched while the loom is shaken. */
export function LivePage() {
  const { job = "" } = useParams();
  const [words] = useSearchParams();
  const view = {
    run: words.get("run") ?? undefined,
    scenario: words.get("scenario") ?? undefined,
    stage: words.get("stage") ?? undefined,
  };
  const walk = useWalk(job, view);
  const meters = useMeters();
  const wrong = walk.error ?? meters.error;
  const asked = view.run ? `?run=${view.run}` : "";
  return (
    <Page
      title={walk.data && `Live: ${walk.data.run_name}`}
      back={[`/jobs/${job}/walk${asked}`, "Walk"]}
      className="max-w-6xl"
    >
      <Heading className="text-xl font-bold">Live meters</Heading>
      <p className="mb-2 text-soft">{walk.data?.run_name}</p>
      {wrong && (
        <p role="alert" className="text-over">
          {sentence(wrong)}
        </p>
      )}
      {meters.data?.meters.length === 0 && (
        <p className="rounded border border-dashed border-rule p-3">
          No meter is connected.{" "}
          <Link to="/meters" className="font-bold text-slate underline">
            Add one
          </Link>
        </p>
      )}
      {walk.data && meters.data && meters.data.meters.length > 0 && (
        <Opened
          walk={walk.data}
          meters={meters.data.meters}
          red={words.get("red")}
          black={words.get("black")}
        />
      )}
    </Page>
  );
}

interface Laid {
  red: string;
  black: string;
}

function Opened({
  walk,
  meters,
  red,
  black,
}: {
  walk: Walk;
  meters: Meter[];
  red: string | null;
  black: string | null;
}) {
  const posts = {
    red: walk.loop.feed[0]?.entry ?? "",
    black: walk.loop.back.at(-1)?.exit ?? "",
  };
  // The one that walks is looked at; the one on the source stands beside it.
  const inOrder = [...meters].sort((a, b) => Number(a.on_source) - Number(b.on_source));
  const [laid, setLaid] = useState<Record<string, Laid>>({});
  const first = inOrder[0]?.id;
  const at = (meter: Meter): Laid => {
    if (meter.on_source) return posts;
    // Where leads lie is said, never guessed: what is recorded counts for that place.
    const given = meter.id === first && red && black ? { red, black } : { red: "", black: "" };
    return laid[meter.id] ?? given;
  };
  const recordings = useRecordings(walk.job);
  const all = recordings.data?.recordings ?? [];
  useAlarm(all);
  if (walk.guards.some((g) => !g.acknowledged)) return <Guards walk={walk} />;
  const looked = inOrder[0] ? at(inOrder[0]) : posts;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-x-8 lg:grid-cols-2">
      <div>
        {inOrder.map((meter) => (
          <OneMeter
            key={meter.id}
            walk={walk}
            meter={meter}
            laid={at(meter)}
            onLay={(now) => setLaid((before) => ({ ...before, [meter.id]: now }))}
          />
        ))}
      </div>
      <div>
        <Acts
          walk={walk}
          meters={inOrder.map((meter) => ({ meter: meter.id, ...at(meter) }))}
          all={all}
        />
        <Recordings walk={walk} all={all} red={looked.red} black={looked.black} />
      </div>
    </div>
  );
}

/** Sounds once for each change that came while the page looked on. */
function useAlarm(all: Recording[]): void {
  const changes = all.reduce((n, r) => n + r.changes.length + r.more_changes, 0);
  const going = all.some((r) => r.changing);
  const before = useRef<{ changes: number; going: boolean } | null>(null);
  useEffect(() => {
    const was = before.current;
    if (was && ((going && !was.going) || (changes > was.changes && !was.going))) alarm();
    before.current = { changes, going };
  }, [changes, going]);
}

function OneMeter({
  walk,
  meter,
  laid,
  onLay,
}: {
  walk: Walk;
  meter: Meter;
  laid: Laid;
  onLay: (laid: Laid) => void;
}) {
  const shown = useLive()[meter.id];
  const name = (id: string) => walk.points.find((p) => p.id === id)?.name ?? id;
  return (
    <section aria-label={meter.name} className="mb-4">
      <div className="flex items-baseline gap-3">
        <h2 className="min-w-0 flex-1 font-bold break-words">{meter.name}</h2>
        <span className="num text-2xl font-bold">{shownText(shown)}</span>
      </div>
      {shown?.says && <p className="text-ochre">{shown.says}</p>}
      {meter.on_source ? (
        <p className="text-[14px] text-soft">
          stays on the source: {name(laid.red)} and {name(laid.black)}
        </p>
      ) : (
        <div className="grid grid-cols-2 gap-2">
          {(["red", "black"] as const).map((lead) => (
            <PointPick
              key={lead}
              walk={walk}
              lead={lead}
              label={`${lead.toUpperCase()} lead on`}
              value={laid[lead]}
              onPick={(point) => onLay({ ...laid, [lead]: point })}
            />
          ))}
        </div>
      )}
      <LiveTrace name={meter.name} shown={shown} />
    </section>
  );
}

type Laying = { meter: string; red: string; black: string };

/** What can be recorded: all of it, the minute that was, a start, changes. */
function Acts({ walk, meters, all }: { walk: Walk; meters: Laying[]; all: Recording[] }) {
  const { begin, stop } = useRecordingActs(walk.job);
  const [change, setChange] = useState("50 mV");
  const tracing = all.find((r) => r.kind === "trace" && !r.is_over);
  const start = (kind: Recording["kind"], more: { back_s?: number; least_change?: string } = {}) =>
    begin.mutateAsync({
      kind,
      meters,
      back_s: 0,
      least_change: "",
      stage: walk.stage === "as_left" ? "as_left" : "as_found",
      scenario: walk.scenario,
      states: null,
      contacts: {},
      charging: null,
      ...more,
    });
  const wrong = wrongWith(begin.error, "least_change");
  return (
    <section aria-label="Record" className="space-y-2">
      <div className="flex flex-wrap gap-2">
        {tracing ? (
          <Button tone="strong" onClick={() => stop.mutate(tracing.id)}>
            Stop recording
          </Button>
        ) : (
          <Button onClick={() => start("trace").catch(() => {})}>Record</Button>
        )}
        <Button
          onClick={() =>
            start("trace", { back_s: 60 })
              .then((made) => stop.mutateAsync(made.id))
              .catch(() => {})
          }
        >
          Keep the last minute
        </Button>
        <Button onClick={() => start("start").catch(() => {})}>Catch a start</Button>
      </div>
      <form
        className="flex items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          start("watch", { least_change: change }).catch(() => {});
        }}
      >
        <TextField
          className="w-36"
          label="Watch for changes above"
          value={change}
          onChange={setChange}
          wrong={wrong}
        />
        <Button type="submit">Watch</Button>
      </form>
      {(begin.error ?? stop.error) && !wrong && (
        <p role="alert" className="text-over">
          {sentence(begin.error ?? stop.error)}
        </p>
      )}
    </section>
  );
}
