import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../../ui/Button";
import { NextLink } from "../../ui/NextLink";
import { NotShown } from "../../ui/told/NotShown";
import { Opening } from "../../ui/told/Opening";
import { type Bay, useAct, useBay } from "./api";
import { useHeld } from "./away";
import { Conclude } from "./bay/Conclude";
import { DoneActs } from "./bay/DoneActs";
import { Measure } from "./bay/Measure";
import { Switches } from "./bay/Switches";
import { Practising } from "./Practising";

/** The bay: a complaint, the loop, and what a person there would have. */
export function BayPage({ id }: { id: string }) {
  const bay = useBay(id);
  if (bay.isPending) return <Opening says="Opening the bay …" />;
  if (!bay.data) {
    return (
      <NotShown
        what="There is no such exercise of yours"
        error={bay.error}
        to="/practise"
        way="To practice"
      />
    );
  }
  return <Opened bay={bay.data} />;
}

function Opened({ bay }: { bay: Bay }) {
  const act = useAct(bay);
  const [concluding, setConcluding] = useState(false);
  const held = useHeld(bay.attempt);
  const own = bay.loads.find((l) => l.own);
  return (
    <Practising
      title={bay.title}
      heading={bay.title}
      acts={
        <span className="num text-soft">
          {Math.round(bay.minutes)} min{bay.price && ` · parts ${bay.price}`}
        </span>
      }
      className="max-w-6xl"
    >
      <p className="text-lg">
        <b>“{bay.complaint}”</b>
      </p>
      <p role="status" className="text-soft">
        Now: {own?.says}
        {bay.loads.length > 1 &&
          `. ${bay.loads
            .filter((l) => !l.own)
            .map((l) => l.says)
            .join(". ")}`}
        .
      </p>
      {held.length > 0 && (
        <p role="status" className="dots-close mt-1 rounded p-2 font-bold">
          The program does not answer.{" "}
          {held.length === 1 ? "1 reading waits" : `${held.length} readings wait`} on this device.
          Plain volts and the clamp go on.
        </p>
      )}
      <Cautions bay={bay} onNoted={() => act.mutate({ kind: "noted" })} />
      <div className="mt-2 grid gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
        <Measure bay={bay} act={act} />
        <div className="space-y-4">
          <Switches bay={bay} act={act} />
          <DoneActs bay={bay} />
        </div>
      </div>
      <div className="sticky bottom-0 mt-3 flex flex-wrap gap-2 border-t border-line bg-canvas py-2">
        {bay.ended ? (
          <NextLink to={`/practise/debrief/${bay.attempt}`}>See the debrief</NextLink>
        ) : (
          <>
            <Button tone={bay.repaired ? "plain" : "strong"} onClick={() => setConcluding(true)}>
              {bay.repaired ? "Something else is wrong" : "Say what it is"}
            </Button>
            {bay.repaired && <HandOver bay={bay} act={act} />}
          </>
        )}
      </div>
      {concluding && <Conclude bay={bay} act={act} onClose={() => setConcluding(false)} />}
    </Practising>
  );
}

/** After a repair: measured again, or not, the craft goes back to its owner. */
function HandOver({ bay, act }: { bay: Bay; act: ReturnType<typeof useAct> }) {
  const navigate = useNavigate();
  return (
    <Button
      tone="strong"
      disabled={act.isPending || bay.ended}
      onClick={() =>
        act.mutate(
          { kind: "hand_over" },
          { onSuccess: () => navigate(`/practise/debrief/${bay.attempt}`) },
        )
      }
    >
      Hand it over
    </Button>
  );
}

/** Before anything is measured; who measures all the same is told so afterwards. */
function Cautions({ bay, onNoted }: { bay: Bay; onNoted: () => void }) {
  if (bay.noted || bay.cautions.length === 0) return null;
  return (
    <section aria-label="Cautions" className="mt-2 rounded border-2 border-ochre p-2">
      <ul>
        {bay.cautions.map((c) => (
          <li key={c.id}>
            <b>{c.when}.</b> {c.says}
          </li>
        ))}
      </ul>
      <Button className="mt-2" onClick={onNoted}>
        I have read them
      </Button>
    </section>
  );
}
