import { Check, TriangleAlert, X } from "lucide-react";
import { Button } from "../../ui/Button";
import { Heading } from "../../ui/Heading";
import { NotShown } from "../../ui/told/NotShown";
import { Opening } from "../../ui/told/Opening";
import { type Debrief, useBay, useBegin, useDebrief } from "./api";
import { Practising } from "./Practising";

/** The debrief: what each act told, what would have told more for less, what the conclusion rested on. */
export function DebriefPage({ id }: { id: string }) {
  const debrief = useDebrief(id);
  if (debrief.isPending) return <Opening says="Going through it …" />;
  if (!debrief.data) {
    return (
      <NotShown
        what="There is no debrief of this exercise yet"
        error={debrief.error}
        to="/practise"
        way="To practice"
      />
    );
  }
  return <Opened debrief={debrief.data} />;
}

function Opened({ debrief: d }: { debrief: Debrief }) {
  const begin = useBegin();
  const exercise = useBay(d.attempt).data?.exercise;
  return (
    <Practising title={d.title} className="max-w-5xl">
      <p className="text-soft">
        {d.title}. “{d.complaint}”
      </p>
      <Heading className="flex items-center gap-2 text-xl font-bold">
        {d.right ? (
          <Check size={22} aria-hidden className="text-slate" />
        ) : (
          <X size={22} aria-hidden className="text-over" />
        )}
        {d.says}
      </Heading>
      <p className="text-lg">{d.truth}</p>
      <ul className="mt-1">
        {d.rests.map((rest) => (
          <li key={rest}>{rest}</li>
        ))}
      </ul>
      <p className="mt-1">
        You took <b className="num">{Math.round(d.minutes)} min</b>
        {d.price && ` and parts for ${d.price}`}.{" "}
        {d.right && (
          <>
            The shortest way takes <b className="num">{Math.round(d.shortest_min)} min</b>.{" "}
          </>
        )}
        {d.needless}
      </p>
      {d.dangers.map((danger) => (
        <p key={danger} className="hatch-over mt-1 flex items-center gap-2 rounded p-2 font-bold">
          <TriangleAlert size={16} aria-hidden className="shrink-0" /> {danger}
        </p>
      ))}
      {d.habits.length > 0 && (
        <section aria-label="Next time" className="mt-3">
          <h2 className="text-lg font-bold">Next time</h2>
          <ul>
            {d.habits.map(([habit, instead]) => (
              <li key={habit}>
                <b>{habit}.</b> {instead}
              </li>
            ))}
          </ul>
        </section>
      )}
      <div className="mt-3 grid gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
        <Steps d={d} />
        <Shortest d={d} />
      </div>
      {exercise && (
        <p className="mt-4">
          <Button
            tone="strong"
            disabled={begin.isPending}
            onClick={() => begin.mutate({ like: exercise })}
          >
            Another like this
          </Button>
        </p>
      )}
    </Practising>
  );
}

/** Each act in order; a bar says how many parts could still be at fault after it. */
function Steps({ d }: { d: Debrief }) {
  const most = Math.max(...d.steps.map((s) => s.left), 1);
  return (
    <section aria-label="What you did">
      <h2 className="text-lg font-bold">What you did, and what it told</h2>
      <ol>
        {d.steps.map((s, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: acts in their order
          <li key={i} className="border-t border-line py-1.5">
            <div className="grid grid-cols-[1fr_auto] gap-x-3">
              <span className="min-w-0 break-words">{s.says}</span>
              <b className="num text-right">{s.shown}</b>
            </div>
            {s.told && (
              <p className="flex items-center gap-2 text-soft">
                <span
                  aria-hidden
                  className="h-2 shrink-0 rounded border border-rule bg-copper-fill"
                  style={{ width: `${Math.max((80 * s.left) / most, 2)}px` }}
                />
                {s.told}
              </p>
            )}
            {s.better && (
              <p className="mt-0.5 border-l-4 border-slate pl-2 text-[14px]">{s.better}</p>
            )}
            {s.danger && <p className="mt-0.5 font-bold text-over">{s.danger}</p>}
          </li>
        ))}
      </ol>
    </section>
  );
}

/** How somebody would go who knows no more than he reads. */
function Shortest({ d }: { d: Debrief }) {
  return (
    <section aria-label="The shortest way">
      <h2 className="text-lg font-bold">The shortest way, {Math.round(d.shortest_min)} min</h2>
      <ol>
        {d.shortest
          .filter((a) => a.kind !== "noted")
          .map((a) => (
            <li
              key={a.number}
              className="grid grid-cols-[1fr_auto] gap-x-3 border-t border-line py-1"
            >
              <span className="min-w-0 break-words">{a.says}</span>
              <b className="num text-right">{a.shown}</b>
            </li>
          ))}
      </ol>
    </section>
  );
}
