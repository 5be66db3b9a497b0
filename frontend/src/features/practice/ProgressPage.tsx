import { type Schema, sentence } from "../../api/client";
import { Heading } from "../../ui/Heading";
import { NextLink } from "../../ui/NextLink";
import { Opening } from "../../ui/told/Opening";
import { useProgress } from "./api";
import { Practising } from "./Practising";

/** How a learner stands: levels, kinds of fault, minutes against the shortest way, what costs. */
export function ProgressPage() {
  const progress = useProgress();
  if (progress.isPending) return <Opening says="Adding up …" />;
  return (
    <Practising title="Your progress" className="max-w-3xl">
      <Heading className="text-xl font-bold">Your progress</Heading>
      {progress.isError && (
        <p role="alert" className="text-over">
          {sentence(progress.error)}
        </p>
      )}
      {progress.data && <Told held={progress.data} />}
    </Practising>
  );
}

function Told({ held }: { held: Schema["ProgressOut"] }) {
  return (
    <div className="space-y-5">
      <p className="text-soft">
        {held.who && `${held.who}. `}
        {held.lessons} of 10 lessons answered right.
      </p>
      {held.levels.length === 0 && (
        <p className="rounded border border-dashed border-rule p-4">
          Nothing ended yet. Ten minutes a day beat a week's course.
        </p>
      )}
      {held.levels.length > 0 && (
        <section aria-label="Levels">
          <h2 className="text-lg font-bold">Levels</h2>
          <ul>
            {held.levels.map((level) => (
              <li
                key={level.level}
                className="grid items-center gap-x-3 border-t border-line py-1.5 sm:grid-cols-[1fr_10rem]"
              >
                <span>{level.says}</span>
                <Filled part={level.right} of={level.ended} />
              </li>
            ))}
          </ul>
        </section>
      )}
      {held.times.length > 0 && <Times times={held.times} />}
      {held.lines.length > 0 && held.levels.length > 0 && (
        <section aria-label="What you find">
          <h2 className="text-lg font-bold">What you find</h2>
          <ul>
            {held.lines.map((line) => (
              <li key={line} className="border-t border-line py-1.5">
                {line}
              </li>
            ))}
          </ul>
        </section>
      )}
      {held.habits.length > 0 && (
        <section aria-label="What costs you">
          <h2 className="text-lg font-bold">What costs you</h2>
          <ul>
            {held.habits.map(([habit, instead]) => (
              <li key={habit} className="border-t border-line py-1.5">
                <b>{habit}.</b> {instead}
              </li>
            ))}
          </ul>
        </section>
      )}
      <NextLink to="/practise">Practise</NextLink>
    </div>
  );
}

/** A bar: how many of how many. The sentence beside it says the same. */
function Filled({ part, of }: { part: number; of: number }) {
  return (
    <span aria-hidden className="flex h-3 overflow-hidden rounded border border-rule">
      <span className="bg-slate" style={{ width: `${(100 * part) / Math.max(of, 1)}%` }} />
    </span>
  );
}

const WIDE = 320;
const HIGH = 72;
const MOST = 4;
const SHOWN = 24;

/** Minutes of each exercise against the shortest way: one is as short as it can be done. */
function Times({ times }: { times: number[] }) {
  const last = times.slice(-SHOWN);
  const step = WIDE / Math.max(last.length, 8);
  const high = (t: number) => (Math.min(t, MOST) / MOST) * HIGH;
  const average = last.reduce((sum, t) => sum + t, 0) / last.length;
  return (
    <section aria-label="Minutes">
      <h2 className="text-lg font-bold">Minutes against the shortest way</h2>
      <p className="text-soft">
        Your last {last.length} that were right: on average {average.toFixed(1)} times the shortest
        way.
      </p>
      <svg viewBox={`0 0 ${WIDE} ${HIGH + 4}`} className="mt-1 block w-full max-w-md" aria-hidden>
        {last.map((t, i) => (
          <rect
            // biome-ignore lint/suspicious/noArrayIndexKey: one bar an exercise, in their order
            key={i}
            x={i * step + 2}
            width={step - 4}
            y={HIGH - high(t)}
            height={high(t)}
            className="fill-copper-fill stroke-copper"
          />
        ))}
        <line
          x1={0}
          x2={WIDE}
          y1={HIGH - HIGH / MOST}
          y2={HIGH - HIGH / MOST}
          className="stroke-ink"
          strokeDasharray="4 3"
        />
      </svg>
    </section>
  );
}
