import { useMemo, useState } from "react";
import { Link, useParams } from "react-router";
import { sentence } from "../../api/client";
import { when } from "../../format/day";
import { whole } from "../../format/format";
import { Button } from "../../ui/Button";
import { Heading } from "../../ui/Heading";
import { BarFile, Page } from "../../ui/Page";
import { Pick, TextField } from "../../ui/TextField";
import { useSay } from "../../ui/told/Notices";
import {
  type FigureName,
  keyOf,
  type Log,
  useLog,
  useLogActs,
  useLogs,
  useWindow,
  type Window,
} from "./api";
import { Trace } from "./Trace";

const FIGURES: [FigureName, string][] = [
  ["mean", "mean"],
  ["least", "least"],
  ["most", "most"],
];
/** A window that was picked: among those found, or by hand. */
interface Picked {
  name: string;
  window: [number, number];
}

/** One log: its traces, the windows found or picked in it, their figures, readings taken from them. */
export function LogPage() {
  const { job = "", log = "" } = useParams();
  const found = useLog(job, log);
  return (
    <Page
      title={found.data && `${found.data.name} · log`}
      back={[`/jobs/${job}/logs`, "Meter logs"]}
      className="max-w-6xl"
      acts={<BarFile href={`/api/v1/jobs/${job}/logs/${log}/csv`}>CSV</BarFile>}
    >
      {found.isPending && <p className="text-soft">Opening the log …</p>}
      {found.isError && (
        <p role="alert" className="text-over">
          {sentence(found.error)}
        </p>
      )}
      {found.data && <Opened log={found.data} />}
    </Page>
  );
}

function Opened({ log }: { log: Log }) {
  const [picked, setPicked] = useState<Picked | null>(() => {
    const steady = log.windows.find((w) => w.kind === "steady");
    return steady ? foundWindow(steady) : null;
  });
  const fine = useWindow(log.job, log.id, picked?.window ?? null);
  const [zoomed, setZoomed] = useState(false);
  const close = zoomed && picked ? fine.data : undefined;
  const drawn = useMemo(() => {
    const { seconds, least, most } = close && close.seconds.length > 1 ? close : log;
    return { seconds, least, most };
  }, [close, log]);
  const shown = picked ? fine.data?.window : log.windows[0];
  const byHand = (window: [number, number]) => setPicked({ name: "", window });
  return (
    <>
      <Heading className="text-xl font-bold">{log.name}</Heading>
      <p className="mb-2 text-soft">
        {log.rows}
        {log.started_at && `, from ${when(log.started_at)}`}
      </p>
      <Trace log={log} drawn={drawn} window={picked?.window ?? null} onPick={byHand} />
      <section aria-label="Windows" className="my-3 flex flex-wrap items-end gap-1">
        {log.windows.map((w) => (
          <Button
            key={w.name}
            aria-pressed={chosen(w, picked)}
            tone={chosen(w, picked) ? "strong" : "plain"}
            onClick={() => setPicked(w.kind === "whole" ? null : foundWindow(w))}
          >
            {w.name}
          </Button>
        ))}
        {picked && (
          <Button aria-pressed={zoomed} onClick={() => setZoomed(!zoomed)}>
            {zoomed ? "Whole trace" : "Zoom in"}
          </Button>
        )}
        <ByHand
          key={`${shown?.start_s.text} ${shown?.end_s.text}`}
          window={shown}
          most={log.duration_s}
          onPick={byHand}
        />
      </section>
      {fine.isError && (
        <p role="alert" className="text-over">
          {sentence(fine.error)}
        </p>
      )}
      <Figures log={log} figures={shown?.figures} window={picked?.window ?? [0, log.duration_s]} />
    </>
  );
}

/** One of the windows that were found, as picked. */
function foundWindow(found: Window): Picked {
  return { name: found.name, window: [found.start_s.si, found.end_s.si] };
}

function chosen(found: Window, picked: Picked | null): boolean {
  return picked === null ? found.kind === "whole" : found.name === picked.name;
}

/** A window by its seconds, for those who do not drag. */
function ByHand({
  window,
  most,
  onPick,
}: {
  window: Window | undefined;
  most: number;
  onPick: (window: [number, number]) => void;
}) {
  const [from, setFrom] = useState(window?.start_s.text ?? "");
  const [to, setTo] = useState(window?.end_s.text ?? "");
  const a = Number(from.replace(",", "."));
  const b = Number(to.replace(",", "."));
  const good =
    from !== "" &&
    to !== "" &&
    Number.isFinite(a) &&
    Number.isFinite(b) &&
    a >= 0 &&
    b > a &&
    a <= most;
  return (
    <form
      className="flex items-end gap-1"
      onSubmit={(e) => {
        e.preventDefault();
        if (good) onPick([a, b]);
      }}
    >
      <TextField className="w-24" label="From, s" value={from} onChange={setFrom} numeric />
      <TextField className="w-24" label="To, s" value={to} onChange={setTo} numeric />
      <Button type="submit" disabled={!good}>
        Pick
      </Button>
    </form>
  );
}

type Figured = Log["windows"][number]["figures"];

function Figures({
  log,
  figures,
  window,
}: {
  log: Log;
  figures: Figured | undefined;
  window: [number, number];
}) {
  const { points, take } = useLogActs(log);
  const list = useLogs(log.job);
  const say = useSay();
  const [stage, setStage] = useState(log.stages[0] ?? "as_found");
  const [scenario, setScenario] = useState(log.scenarios[0]?.id ?? "");
  const choices: [string, string][] = [
    ["", "–"],
    ...(list.data?.points ?? []).map((p): [string, string] => [p.id, p.name]),
  ];
  const complain = (error: unknown) => say(sentence(error), { bad: true });
  const keep = (channel: number, figure: FigureName) =>
    take.mutate(
      {
        channel,
        figure,
        stage,
        scenario,
        start_s: window[0],
        end_s: window[1],
        revision: null,
      },
      { onSuccess: (made) => say(`Taken as a reading: ${made.typed}.`), onError: complain },
    );
  return (
    <section aria-label="Figures of the window">
      <FigureTable log={log} figures={figures} />
      <h2 className="mt-4 font-bold">As readings</h2>
      <p className="text-[13px] text-soft">
        Choose where each channel was measured. A channel on the source posts is used as the source
        voltage for the others at the same instant.
      </p>
      <div className="my-2 grid max-w-xl grid-cols-2 gap-2">
        <Pick
          label="Taken"
          value={stage}
          choices={log.stages.map((s): [typeof s, string] => [
            s,
            s === "as_left" ? "as left" : "as found",
          ])}
          onPick={setStage}
        />
        <Pick
          label="Scenario"
          value={scenario}
          choices={log.scenarios.map((s): [string, string] => [s.id, s.name])}
          onPick={setScenario}
        />
      </div>
      <ul className="border-b border-line">
        {log.channels.map((channel, i) => (
          <li
            key={keyOf(channel.name, i)}
            className="grid gap-2 border-t border-line py-2 sm:grid-cols-[8rem_1fr_1fr_auto]"
          >
            <b className="self-center">{channel.name}</b>
            {(["red", "black"] as const).map((lead) => (
              <Pick
                key={lead}
                label={`${lead} lead on`}
                value={channel[lead]}
                choices={choices}
                onPick={(point) =>
                  points.mutate(
                    { channel: i, red: null, black: null, [lead]: point },
                    { onError: complain },
                  )
                }
              />
            ))}
            <span className="flex items-end gap-1">
              {FIGURES.map(([key, word]) => (
                <Button
                  key={key}
                  aria-label={`Take the ${word} of ${channel.name} as a reading`}
                  disabled={!channel.red || !channel.black || !figures?.[i] || take.isPending}
                  onClick={() => keep(i, key)}
                >
                  {word}
                </Button>
              ))}
            </span>
          </li>
        ))}
      </ul>
      {log.readings.length > 0 && (
        <p className="mt-2">
          Taken from this log: {log.readings.map((r) => r.says).join("; ")}.{" "}
          <Link to={`/jobs/${log.job}`} className="font-bold text-slate underline">
            On the run sheet
          </Link>
        </p>
      )}
    </section>
  );
}

/** Least, mean and most of each channel in the window, its ripple and drift. */
function FigureTable({ log, figures }: { log: Log; figures: Figured | undefined }) {
  return (
    <table className="w-full">
      <thead className="text-right text-[13px] text-soft">
        <tr>
          <th className="text-left font-normal">Channel</th>
          <th className="pl-2 font-normal">Least</th>
          <th className="pl-2 font-normal">Mean</th>
          <th className="pl-2 font-normal">Most</th>
          <th className="hidden pl-2 font-normal sm:table-cell">Ripple</th>
          <th className="hidden pl-2 font-normal sm:table-cell">Drift</th>
        </tr>
      </thead>
      <tbody>
        {log.channels.map((channel, i) => {
          const own = figures?.[i];
          return (
            <tr key={keyOf(channel.name, i)} className="border-t border-line">
              <td className="py-1">
                <b>{channel.name}</b>
                <span className="block text-[13px] text-soft sm:hidden">
                  ripple {whole(own?.ripple)}, drift {whole(own?.drift)}
                </span>
              </td>
              {(["least", "mean", "most", "ripple", "drift"] as const).map((key) => (
                <td
                  key={key}
                  className={`num whitespace-nowrap py-1 pl-2 text-right ${key === "ripple" || key === "drift" ? "hidden sm:table-cell" : ""}`}
                >
                  {whole(own?.[key])}
                </td>
              ))}
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
