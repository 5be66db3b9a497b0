import { Square } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { sentence } from "../../api/client";
import { whole } from "../../format/format";
import { Button } from "../../ui/Button";
import { NextLink } from "../../ui/NextLink";
import { OneOf } from "../../ui/OneOf";
import { Page } from "../../ui/Page";
import { Pick } from "../../ui/TextField";
import { Cautions } from "../../ui/told/Cautions";
import { useSay } from "../../ui/told/Notices";
import { NotShown } from "../../ui/told/NotShown";
import { Opening } from "../../ui/told/Opening";
import { type Sizing, useSizing, useSizingActs } from "./api";
import { usePlanned } from "./planned";
import { RunByRun } from "./RunByRun";

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

type Objective = Sizing["objective"];

function Opened({ sizing }: { sizing: Sizing }) {
  const say = useSay();
  const { start, stop, take } = useSizingActs(sizing.job);
  const planned = usePlanned(sizing.job);
  const [objective, setObjective] = useState<Objective>(sizing.objective);
  const [thicker, setThicker] = useState(sizing.measured);
  const [freeOnly, setFreeOnly] = useState(true);
  // The plan that was made of these sizes; undone, it is that no more.
  const [taken, setTaken] = useState("");
  const [sort, setSort] = useState(nameOf(sizing.sort));
  const [mend, setMend] = useState(true);
  const [kept, setKept] = useState<ReadonlySet<string>>(new Set());
  const running = sizing.state === "running";
  const bad = (error: unknown) => say(sentence(error), { bad: true });
  const begin = () => {
    start.mutate(
      {
        objective,
        thicker,
        mend,
        keep: [...kept],
        free_only: freeOnly && sizing.to_size > 0,
        sort: sizing.sorts.find((s) => nameOf(s) === sort) ?? null,
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
        <OneOf
          label="What is to be least"
          value={objective}
          choices={[
            { id: "copper", name: "least copper" },
            { id: "price", name: "least price" },
          ]}
          onPick={(id) => setObjective(id as Objective)}
        />
        {sizing.to_size > 0 && (
          <label className="inline-flex min-h-11 items-center gap-1.5 lg:min-h-8">
            <input
              type="checkbox"
              checked={freeOnly}
              onChange={(e) => setFreeOnly(e.target.checked)}
            />
            Only what has no size yet
          </label>
        )}
        {sizing.to_size > 0 && (
          <Pick
            label="New wire"
            value={sort}
            choices={sizing.sorts.map((s) => [nameOf(s), nameOf(s)])}
            onPick={setSort}
          />
        )}
        {!(freeOnly && sizing.to_size > 0) && (
          <label className="inline-flex min-h-11 items-center gap-1.5 lg:min-h-8">
            <input
              type="checkbox"
              checked={thicker}
              onChange={(e) => setThicker(e.target.checked)}
            />
            Only go thicker
          </label>
        )}
        {sizing.guilty.length > 0 && (
          <label className="inline-flex min-h-11 items-center gap-1.5 lg:min-h-8">
            <input type="checkbox" checked={mend} onChange={(e) => setMend(e.target.checked)} />
            Repair the found faults first: {sizing.guilty.join(", ")}
          </label>
        )}
        {running ? (
          <Button onClick={() => stop.mutate(undefined, { onError: bad })}>
            <Square size={14} aria-hidden /> Stop and use the best so far
          </Button>
        ) : (
          <Button
            tone={sizing.state === "done" ? "plain" : "strong"}
            disabled={start.isPending}
            onClick={begin}
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
      {sizing.says && (
        <div role="status" aria-label="Sizing" className="space-y-0.5">
          <p className="text-[15px]">
            <b className={sizing.state === "impossible" ? "text-over" : ""}>{sizing.says}</b>
            {running && <span className="text-soft"> {sizing.seconds} s</span>}
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
      {sizing.ways.length > 0 && (
        <table className="w-full max-w-2xl">
          <caption className="text-left font-bold">The whole craft</caption>
          <thead className="text-left text-[13px] text-soft">
            <tr>
              <th className="font-normal">
                {sizing.measured ? "From the readings" : "Calculated"}
              </th>
              <th className="px-3 text-right font-normal">Runs over limit</th>
              <th className="text-right font-normal">Lowest spare</th>
            </tr>
          </thead>
          <tbody>
            {sizing.ways.map((w) => (
              <tr key={w.id} className="border-t border-line">
                <td className="py-0.5">{w.name}</td>
                <td className="px-3 text-right">
                  <span className={`num ${w.over > 0 ? "font-bold text-over" : ""}`}>
                    {w.over > 0 ? "▲ " : "✓ "}
                    {w.over}
                  </span>{" "}
                  <span className="text-soft">of {w.runs}</span>
                  {w.dropped.length > 0 && (
                    <span className="block text-[13px] text-over">
                      {w.dropped.join(", ")} {w.dropped.length === 1 ? "drops" : "drop"} out
                    </span>
                  )}
                </td>
                <td className="text-right">
                  <span className="num">{whole(w.spare_v)}</span>{" "}
                  <span className="text-soft">{w.load}</span>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {sizing.to_size === 0 && <RunByRun job={sizing.job} />}
      {sizing.costs.length > 0 && (
        <table>
          <caption className="text-left font-bold">What each limit costs</caption>
          <thead className="text-left text-[13px] text-soft">
            <tr>
              <th className="font-normal">Limit</th>
              <th className="px-3 text-right font-normal">Spare to this limit</th>
              <th className="text-right font-normal">0.01 V more would save</th>
            </tr>
          </thead>
          <tbody>
            {sizing.costs.map((c) => (
              <tr key={c.load + c.under} className="border-t border-line">
                <td className="py-0.5">
                  {c.load}, {c.under}
                </td>
                <td className="num px-3 text-right">{whole(c.spare_v)}</td>
                <td className="num text-right">{c.saves}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {sizing.fuses.length > 0 && <FusesToSize fuses={sizing.fuses} />}
      <div className="relative overflow-x-auto">
        <table className="w-full">
          <caption className="text-left font-bold">Wires</caption>
          <thead className="text-left text-[13px] text-soft">
            <tr>
              <th className="font-normal">Keep</th>
              <th className="font-normal">Wire</th>
              <th className="px-2 text-right font-normal">Length</th>
              <th className="px-2 text-right font-normal">Now</th>
              <th className="text-right font-normal">Chosen</th>
              <th className="hidden pl-4 font-normal lg:table-cell">Why no thinner</th>
            </tr>
          </thead>
          <tbody>
            {sizing.wires.map((w) => (
              <tr key={w.id} className="border-t border-line align-top">
                <td className="py-0.5">
                  <label className="inline-flex min-h-11 min-w-11 items-center lg:min-h-6">
                    <span className="sr-only">keep {w.name}</span>
                    <input
                      type="checkbox"
                      checked={kept.has(w.id)}
                      onChange={() => keep(w.id)}
                      className="size-5 lg:size-4"
                    />
                  </label>
                </td>
                <td className="py-0.5">
                  {w.name} <span className="text-[13px] text-soft">{w.runs}</span>
                  <span className="block text-[13px] text-soft lg:hidden">{w.because}</span>
                </td>
                <td className="num whitespace-nowrap px-2 text-right">{w.length}</td>
                <td className="num whitespace-nowrap px-2 text-right">{w.before}</td>
                <td
                  className={`num whitespace-nowrap text-right ${w.changed ? "font-bold text-slate" : "text-soft"}`}
                >
                  {sizing.after ? w.after : ""}
                </td>
                <td className="hidden pl-4 text-[13px] text-soft lg:table-cell">{w.because}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <Cautions cautions={sizing.cautions} />
    </Page>
  );
}

const SYSTEMS = { mm2: "mm²", "mm2-road": "mm² road", awg: "AWG" };

function nameOf({ system, finish, insulation_c }: Sizing["sort"]): string {
  return `${SYSTEMS[system]}${finish === "plain" ? "" : ` ${finish}`}, ${insulation_c} °C`;
}

/** The fuses that have no rating yet, and what each is to be. */
function FusesToSize({ fuses }: { fuses: Sizing["fuses"] }) {
  return (
    <table className="w-full">
      <caption className="text-left font-bold">Fuses without a rating</caption>
      <thead className="text-left text-[13px] text-soft">
        <tr>
          <th className="font-normal">Fuse</th>
          <th className="px-2 text-right font-normal">Chosen</th>
          <th className="hidden pl-4 font-normal lg:table-cell">Why</th>
        </tr>
      </thead>
      <tbody>
        {fuses.map((f) => (
          <tr key={f.id} className="border-t border-line align-top">
            <td className="py-0.5">
              {f.name} <span className="text-[13px] text-soft">{f.runs}</span>
              <span className="block text-[13px] text-soft lg:hidden">{f.because}</span>
            </td>
            <td className="num whitespace-nowrap px-2 text-right font-bold text-slate">
              {f.after || <span className="font-normal text-soft">to be sized</span>}
            </td>
            <td className="hidden pl-4 text-[13px] text-soft lg:table-cell">{f.because}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
