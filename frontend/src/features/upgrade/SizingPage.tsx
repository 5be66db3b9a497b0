import { Square } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { sentence } from "../../api/client";
import { Button } from "../../ui/Button";
import { NextLink } from "../../ui/NextLink";
import { Page } from "../../ui/Page";
import { Cautions } from "../../ui/told/Cautions";
import { useSay } from "../../ui/told/Notices";
import { NotShown } from "../../ui/told/NotShown";
import { Opening } from "../../ui/told/Opening";
import { type Sizing, useSizing, useSizingActs } from "./api";
import { usePlanned } from "./planned";
import { RunByRun } from "./RunByRun";
import { FusesToSize, LimitCosts, WholeCraft, WiresToSize } from "./SizingTables";
import { nameOf, SizingWishes, type Wishes } from "./SizingWishes";

/** Every conductor of a craft sized at once: the least copper or price that keeps every ceiling. */
export function SizingPage() {
  const { job = "" } = useParams();
  const sizing = useSizing(job);
  if (sizing.isPending) return <Opening says="Opening the craft’s wires …" />;
  if (!sizing.data) {
    return (
      <NotShown
        what="The wires cannot be shown"
        error={sizing.error}
        to={`/jobs/${job}/craft`}
        way="To the craft"
      />
    );
  }
  return <Opened sizing={sizing.data} />;
}

function Opened({ sizing }: { sizing: Sizing }) {
  const say = useSay();
  const { start, stop, take } = useSizingActs(sizing.job);
  const planned = usePlanned(sizing.job);
  const [wishes, setWishes] = useState<Wishes>({
    objective: sizing.objective,
    thicker: sizing.measured,
    freeOnly: true,
    sort: nameOf(sizing.sort),
    mend: true,
  });
  const set = (more: Partial<Wishes>) => setWishes((now) => ({ ...now, ...more }));
  // The plan that was made of these sizes; undone, it is that no more.
  const [taken, setTaken] = useState("");
  const [kept, setKept] = useState<ReadonlySet<string>>(new Set());
  const running = sizing.state === "running";
  const bad = (error: unknown) => say(sentence(error), { bad: true });
  const begin = (anyway = false) => {
    start.mutate(
      {
        anyway,
        objective: wishes.objective,
        thicker: wishes.thicker,
        mend: wishes.mend,
        keep: [...kept],
        free_only: wishes.freeOnly && sizing.to_size > 0,
        sort: sizing.sorts.find((s) => nameOf(s) === wishes.sort) ?? null,
        revision: sizing.revision,
      },
      { onError: bad },
    );
  };
  const [words, setWords] = useSearchParams();
  const asked = useRef(words.has("start"));
  // Whoever comes to size the craft has pressed for it already.
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when the page opens
  useEffect(() => {
    if (!asked.current) return;
    asked.current = false;
    setWords({}, { replace: true });
    if (!running) begin();
  }, []);
  const keep = (id: string) =>
    setKept((was) => {
      const next = new Set(was);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  return (
    <Page
      title={`${sizing.title} · sizes`}
      back={[`/jobs/${sizing.job}/craft`, "The craft"]}
      heading={
        <>
          Sizes <span className="font-normal text-soft">· {sizing.title}</span>
        </>
      }
      className="max-w-5xl space-y-3"
    >
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2">
        <SizingWishes sizing={sizing} wishes={wishes} set={set} />
        {running ? (
          <Button onClick={() => stop.mutate(undefined, { onError: bad })}>
            <Square size={14} aria-hidden /> Stop and use the best so far
          </Button>
        ) : (
          <Button
            tone={sizing.state === "done" ? "plain" : "strong"}
            disabled={start.isPending}
            onClick={() => begin()}
          >
            Size the craft
          </Button>
        )}
      </div>
      <p className="text-[13px] text-soft">
        Rates every fuse that has no rating, then sizes the wires from stock so that each load stays
        within limits in every scenario, keeps its minimum voltage while motors start, and each wire
        suits its current and its fuse. Tick wires to leave as they are.
      </p>
      <Says sizing={sizing} />
      {sizing.anyway && (
        <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
          <Button disabled={start.isPending} onClick={() => begin(true)}>
            Size it all the same
          </Button>
          <span className="text-[13px] text-soft">
            What is over gets the thickest wire it takes and stays over; the others meet their
            limits.
          </span>
        </div>
      )}
      {sizing.state === "done" && taken === sizing.revision && (
        <NextLink to={`/jobs/${sizing.job}/lists`}>
          Planned. To the wire list, the buying list and the quote
        </NextLink>
      )}
      {sizing.state === "done" && taken !== sizing.revision && (
        <Button
          tone="strong"
          disabled={take.isPending}
          onClick={() =>
            take.mutate(sizing.revision, {
              ...planned,
              onSuccess: (made) => {
                planned.onSuccess(made);
                setTaken(made.revision);
              },
            })
          }
        >
          Plan these sizes
        </Button>
      )}
      <WholeCraft sizing={sizing} />
      {sizing.to_size === 0 && <RunByRun job={sizing.job} />}
      <LimitCosts sizing={sizing} />
      <FusesToSize fuses={sizing.fuses} />
      <WiresToSize sizing={sizing} kept={kept} onKeep={keep} />
      <Cautions cautions={sizing.cautions} />
    </Page>
  );
}

/** What came of it so far, in words. */
function Says({ sizing }: { sizing: Sizing }) {
  if (!sizing.says) return null;
  return (
    <div role="status" aria-label="Sizing" className="space-y-0.5">
      <p className="text-[15px]">
        <b className={sizing.state === "impossible" ? "text-over" : ""}>{sizing.says}</b>
        {sizing.state === "running" && <span className="text-soft"> {sizing.seconds} s</span>}
      </p>
      {sizing.after && (
        <p>
          {sizing.to_size === 0 && (
            <>
              <span className="num">{sizing.before}</span> now,{" "}
            </>
          )}
          <b className="num">{sizing.after}</b> {sizing.unit} with these sizes. {sizing.second}
        </p>
      )}
      {sizing.more.map((line) => (
        <p key={line} className="text-soft">
          {line}
        </p>
      ))}
    </div>
  );
}
