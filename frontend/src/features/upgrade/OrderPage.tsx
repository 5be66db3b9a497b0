import { Download, Printer } from "lucide-react";
import { useEffect, useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { Button } from "../../ui/Button";
import { Heading } from "../../ui/Heading";
import { NextLink } from "../../ui/NextLink";
import { BarFile, Page } from "../../ui/Page";
import { Away } from "../../ui/told/Away";
import { Cautions } from "../../ui/told/Cautions";
import { useSay } from "../../ui/told/Notices";
import { NotShown } from "../../ui/told/NotShown";
import { Opening } from "../../ui/told/Opening";
import { OpenPhotographs } from "../photographs/OpenPhotographs";
import { usePulse } from "../walk/api";
import { type Order, useOrder, useTick } from "./api";
import { Parts } from "./Parts";
import { Relay } from "./Relay";

/** The work order of a plan: steps to tick, what it takes, what must be read afterwards. */
export function OrderPage() {
  const { job = "" } = useParams();
  const [words] = useSearchParams();
  const run = words.get("run");
  const order = useOrder(job, run);
  if (order.isPending) return <Opening says="Writing the work order …" />;
  if (!order.data) {
    return (
      <NotShown
        what="There is no work order yet"
        error={order.error}
        to={`/jobs/${job}/upgrade${run ? `?run=${encodeURIComponent(run)}` : ""}`}
        way="To the upgrade bench"
      />
    );
  }
  return <Opened order={order.data} />;
}

function Opened({ order }: { order: Order }) {
  const say = useSay();
  const tick = useTick(order);
  // A tick shows at once, and stays as it was set until the order says the same: what is read in between may be older.
  const [turned, setTurned] = useState<Record<string, boolean>>({});
  const { steps } = order;
  useEffect(
    () =>
      setTurned((was) => {
        const left = Object.entries(was).filter(
          ([id, to]) => steps.find((s) => s.id === id)?.ticked !== to,
        );
        return left.length === Object.keys(was).length ? was : Object.fromEntries(left);
      }),
    [steps],
  );
  const isDone = (s: Order["steps"][number]) => turned[s.id] ?? s.ticked;
  const turn = async (s: Order["steps"][number]) => {
    const to = !isDone(s);
    setTurned((was) => ({ ...was, [s.id]: to }));
    const outcome = await tick(s, to);
    if (outcome.state !== "refused") return;
    setTurned(({ [s.id]: _, ...rest }) => rest);
    say(outcome.why, { bad: true });
  };
  const away = usePulse(order.job);
  const words = new URLSearchParams({ run: order.run });
  // Nothing is ticked off before the cautions that can prevent an injury are taken note of.
  const noted = order.steps.every((s) => !s.guard || isDone(s));
  return (
    <Page
      title={`${order.name} · work order`}
      back={[`/jobs/${order.job}/upgrade?${words}`, "Repairs and upgrades"]}
      acts={
        <>
          <BarFile href={`/api/v1/jobs/${order.job}/order.csv?${words}`}>
            <Download size={15} aria-hidden /> Parts as CSV
          </BarFile>
          <Button tone="quiet" onClick={() => window.print()}>
            <Printer size={16} aria-hidden /> Print
          </Button>
        </>
      }
      className="max-w-5xl"
    >
      <Away away={away} />
      <Heading className="text-xl font-bold">Work order: {order.name}</Heading>
      <p className="text-soft">{order.title}</p>
      <Cautions cautions={order.cautions} large />
      <div className="grid gap-x-8 gap-y-5 lg:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
        <section aria-label="Steps">
          <h2 className="mb-1 text-lg font-bold">
            Steps{" "}
            <span className="text-base font-normal text-soft" data-testid="ticked">
              {order.steps.filter(isDone).length} of {order.steps.length} done
            </span>
          </h2>
          {!noted && <p className="text-soft">Read the cautions first.</p>}
          <ol>
            {order.steps.map((s, i) => (
              <OneStep
                key={s.id}
                job={order.job}
                step={s}
                place={s.place !== order.steps[i - 1]?.place ? s.place : ""}
                done={isDone(s)}
                off={!s.guard && !noted}
                onTurn={() => turn(s)}
              />
            ))}
          </ol>
          <div className="mt-3">
            <NextLink
              to={`/jobs/${order.job}/walk?${words}&stage=as_left`}
              strong={order.steps.every(isDone)}
            >
              Measure after the repair
            </NextLink>
          </div>
        </section>
        <div className="space-y-5">
          <Parts parts={order.parts} price={order.price} minutes={order.minutes} />
          {order.relays.map((relay) => (
            <Relay key={relay.says.join()} relay={relay} />
          ))}
          <Afterwards order={order} />
        </div>
      </div>
      <p className="mt-4 border-t border-line pt-2 text-[13px] text-soft">
        Supports competent people; the code in force, the maker’s instructions and licensed practice
        come first. Prices and minutes are the workshop’s own tables.
      </p>
    </Page>
  );
}

/** One step, ticked with one thumb; above it where it is, where that is another place than before. */
function OneStep({
  job,
  step,
  place,
  done,
  off,
  onTurn,
}: {
  job: string;
  step: Order["steps"][number];
  place: string;
  done: boolean;
  off: boolean;
  onTurn: () => void;
}) {
  return (
    <li className="flex flex-wrap items-start border-t border-line">
      {place && <h3 className="w-full pt-2 font-bold text-soft">From {place}</h3>}
      <label className="flex min-h-12 flex-1 basis-3/4 cursor-pointer items-start gap-3 py-2">
        <input
          type="checkbox"
          checked={done}
          disabled={off}
          onChange={onTurn}
          className="mt-0.5 size-6 shrink-0"
        />
        <span className={done ? "text-soft line-through" : ""}>
          <b>{step.says}</b> {step.mind && <span className="text-soft">{step.mind}</span>}
        </span>
      </label>
      {!step.guard && (
        <OpenPhotographs job={job} of={{ subject: "step", about: step.id }} name={step.says} />
      )}
    </li>
  );
}

/** What is read once the work is done, and what is expected then. */
function Afterwards({ order }: { order: Order }) {
  const words = new URLSearchParams({ run: order.run });
  return (
    <section aria-label="Readings afterwards">
      <h2 className="text-lg font-bold">Measure afterwards</h2>
      <p className="mb-1 text-[13px] text-soft">
        Same load, same warm-up, same meter as before. Source and load first.
      </p>
      <p className="no-print flex flex-wrap gap-x-5">
        <Link
          to={`/jobs/${order.job}/proof?${words}`}
          className="inline-flex min-h-11 items-center font-bold text-slate underline lg:min-h-8"
        >
          Proof
        </Link>
      </p>
      <table className="w-full">
        <thead className="text-left text-[13px] text-soft">
          <tr>
            <th className="font-normal">What, red lead → black lead</th>
            <th className="text-right font-normal">Expected</th>
          </tr>
        </thead>
        <tbody>
          {order.readings.map((r) => (
            <tr key={r.what + r.red} className="border-t border-line align-top">
              <td className="py-0.5">
                <b>{r.what}</b>
                <span className="block text-[13px] text-soft">
                  {r.red} → {r.black}
                </span>
              </td>
              <td className="num whitespace-nowrap py-0.5 pl-2 text-right">{r.expected}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
