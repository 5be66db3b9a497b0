import { useState } from "react";
import { sentence } from "../../api/client";
import { whole } from "../../format/format";
import { Button } from "../../ui/Button";
import { useRunByRun, useTakeRunByRun } from "./api";
import { usePlanned } from "./planned";

/** Every run that is over, put right by its own best repair, the worst first; all taken as one plan. */
export function RunByRun({ job }: { job: string }) {
  const [asked, setAsked] = useState(false);
  const { data, error, refetch } = useRunByRun(job, asked);
  const take = useTakeRunByRun(job);
  const planned = usePlanned(job);
  return (
    <section aria-label="Run by run" className="space-y-1.5">
      <h2 className="font-bold">Run by run</h2>
      <p className="text-[13px] text-soft">
        The best repair for each run that is over its limit or starves its load, worst first. Each
        repair's effect on the others is counted before the next. Runs that would each get a new
        return, relay or thicker wire share one where that costs less.
      </p>
      {!data?.done && (
        <Button disabled={asked && !error} onClick={() => (asked ? refetch() : setAsked(true))}>
          Work out the repairs
        </Button>
      )}
      {error && <p role="alert">{sentence(error)}</p>}
      {asked && !data && !error && <p role="status">Looking at the runs …</p>}
      {data && (
        <>
          <p role="status">{stands(data)}</p>
          {data.repairs.length > 0 && (
            <ol>
              {data.repairs.map((r) => (
                <li
                  key={r.load + r.says}
                  className="grid gap-x-4 border-t border-line py-1 sm:grid-cols-[10rem_1fr_14rem_9rem]"
                >
                  <span className="min-w-0 break-words">{r.load}</span>
                  <span className="min-w-0 break-words">
                    <b>{r.says}</b>{" "}
                    <span className="text-[13px] text-soft">{r.sizes.join("; ")}</span>
                    {r.alone && <span className="block text-[13px]">{r.alone}</span>}
                  </span>
                  <span>
                    <span className="text-soft">spare </span>
                    <span className="num">{whole(r.before_v)}</span> →{" "}
                    <span className="num">{r.after_v ? whole(r.after_v) : "?"}</span>
                  </span>
                  <span className="text-soft">{spent(r)}</span>
                </li>
              ))}
            </ol>
          )}
          {data.done && data.repairs.length > 0 && (
            <Button disabled={take.isPending} onClick={() => take.mutate(data.revision, planned)}>
              Plan all of these
            </Button>
          )}
        </>
      )}
    </section>
  );
}

type Stands = NonNullable<ReturnType<typeof useRunByRun>["data"]>;

function stands({ done, repairs, waiting, sharing, beyond, ...more }: Stands): string {
  const { unknown, price, minutes } = more;
  if (!done && sharing.length > 0) return `Trying one repair for ${sharing.join(" and ")}.`;
  if (!done) return `Looking at ${waiting[0]}; ${waiting.length} to go.`;
  const open = unknown.length > 0 ? ` Not known yet: ${unknown.join(", ")}.` : "";
  const left = (beyond.length > 0 ? ` No option is enough for ${beyond.join(", ")}.` : "") + open;
  if (repairs.length === 0)
    return beyond.length > 0
      ? left.trim()
      : `No run${open ? " that is known" : ""} is over.${open}`;
  const count = repairs.length === 1 ? "One repair" : `${repairs.length} repairs`;
  return `${count}: ${spent({ price, minutes })}.${left}`;
}

const spent = ({ price, minutes }: { price: string; minutes: string }) =>
  [price && `price ${price}`, `${minutes} min`].filter(Boolean).join(", ");
