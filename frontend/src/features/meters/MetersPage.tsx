import { useState } from "react";
import { Refused, sentence } from "../../api/client";
import { Ask } from "../../ui/Ask";
import { Button } from "../../ui/Button";
import { Heading } from "../../ui/Heading";
import { Page } from "../../ui/Page";
import { useSay } from "../../ui/told/Notices";
import { useAccess } from "../access/api";
import { AddMeter } from "./AddMeter";
import { type Meter, useMeterActs, useMeters } from "./api";
import { shownText } from "./figure";
import { useLive } from "./live";

/** The meters that speak: what each shows now, which one stays on the source; added, tried, taken out. */
export function MetersPage() {
  const meters = useMeters();
  const here = useAccess().data?.door === "here";
  return (
    <Page title="Meters" back={["/settings", "Settings"]} className="max-w-4xl">
      <Heading className="text-xl font-bold">Meters</Heading>
      <p className="mb-3 text-soft">
        Meters that send what they show. This computer reads them; every paired phone sees them.
      </p>
      {meters.isError && (
        <p role="alert" className="text-over">
          {sentence(meters.error)}
        </p>
      )}
      {meters.data && meters.data.meters.length === 0 && (
        <p className="rounded border border-dashed border-rule p-3">
          No meter yet. Without one, readings are typed as ever.
        </p>
      )}
      {meters.data && meters.data.meters.length > 0 && (
        <ul aria-label="Meters" className="border-b border-line">
          {meters.data.meters.map((meter) => (
            <Line key={meter.id} meter={meter} here={here} />
          ))}
        </ul>
      )}
      {meters.data &&
        (here ? (
          <AddMeter ports={meters.data.ports} specs={meters.data.specs} />
        ) : (
          <p className="mt-4 text-soft">
            Meters are added and taken out at the computer that reads them.
          </p>
        ))}
    </Page>
  );
}

function Line({ meter, here }: { meter: Meter; here: boolean }) {
  const shown = useLive()[meter.id];
  const { remove, leave } = useMeterActs();
  const say = useSay();
  const [asking, setAsking] = useState(false);
  const complain = (error: unknown) =>
    say(error instanceof Refused ? sentence(error) : "The program does not answer.", { bad: true });
  return (
    <li className="grid gap-x-4 gap-y-1 border-t border-line py-2 sm:grid-cols-[1fr_auto]">
      <div className="min-w-0">
        <p className="font-bold break-words">{meter.name}</p>
        <p className="text-[14px] break-words text-soft">
          {meter.address}
          {meter.spec && ` · ${meter.spec}`}
        </p>
        {shown?.who && <p className="text-[13px] break-words text-soft">{shown.who}</p>}
      </div>
      <p className="text-right">
        <span className="num text-2xl font-bold">{shownText(shown)}</span>
        {shown?.says && <span className="block text-[14px] text-ochre">{shown.says}</span>}
      </p>
      <div className="flex flex-wrap items-center gap-x-4 sm:col-span-2">
        <label className="flex min-h-11 items-center gap-2">
          <input
            type="checkbox"
            className="size-5"
            checked={meter.on_source ?? false}
            disabled={leave.isPending}
            onChange={(e) =>
              leave.mutate({ id: meter.id, on: e.target.checked }, { onError: complain })
            }
          />
          stays on the source
        </label>
        {here && (
          <Button tone="quiet" onClick={() => setAsking(true)}>
            Take out
          </Button>
        )}
      </div>
      <Ask
        open={asking}
        onClose={() => setAsking(false)}
        title={`Take out ${meter.name}?`}
        says="Readings that it gave stay as they are. It can be added again."
        act="Take it out"
        onAct={() => remove.mutate(meter.id, { onError: complain })}
      />
    </li>
  );
}
