import { Radio, Volume2, VolumeX } from "lucide-react";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import { signal } from "../../api/signal";
import { keep, kept } from "../../offline/device";
import { Button } from "../../ui/Button";
import { type Meter, useMeters } from "./api";
import { shownText } from "./figure";
import { byItself, speak, tone, voice } from "./heard";
import { useLive } from "./live";
import { type Asked, useTaking } from "./useTaking";

const METER = "spare-margin.meter";
/** The cards that are open, the newest last: what a meter gives goes to that one alone. */
const open = signal<readonly symbol[]>([]);

/** Whether this is the card that was opened last. */
function useNewest(): boolean {
  const [me] = useState(() => Symbol());
  useEffect(() => {
    open.set([...open.get(), me]);
    return () => open.set(open.get().filter((each) => each !== me));
  }, [me]);
  return open.use().at(-1) === me;
}

/** What a meter shows, beside the box: taken by a touch, by a key or a pedal, or by itself once it stands still. */
export function LiveBox(asked: Asked & { recorded: string }) {
  const meters = useMeters();
  const walks = (meters.data?.meters ?? []).filter((m) => !m.on_source);
  const left = meters.data?.meters.find((m) => m.on_source);
  const [chosen, setChosen] = useState(() => kept(METER));
  const meter = walks.find((m) => m.id === chosen) ?? walks[0];
  const newest = useNewest();
  if (!meter || !newest) return null;
  return (
    <section aria-label="Live meter" className="mt-2 rounded border border-rule bg-canvas p-2">
      {walks.length > 1 && (
        <select
          aria-label="Which meter"
          value={meter.id}
          onChange={(e) => {
            keep(METER, e.target.value);
            setChosen(e.target.value);
          }}
          className="mb-1 min-h-11 w-full rounded border border-rule bg-plate px-2"
        >
          {walks.map((m) => (
            <option key={m.id} value={m.id}>
              {m.name}
            </option>
          ))}
        </select>
      )}
      <Taking key={meter.id} meter={meter} left={left} {...asked} />
    </section>
  );
}

function Taking({
  meter,
  left,
  recorded,
  ...asked
}: Asked & { meter: Meter; left: Meter | undefined; recorded: string }) {
  const live = useLive();
  const auto = byItself.use();
  const { shown, fits, wrong, says, took, last, pressed, undo } = useTaking(asked, meter);
  return (
    <>
      <div className="flex items-center gap-2">
        <p className="min-w-0 flex-1">
          <span data-testid="live" className="num block text-2xl leading-tight font-bold">
            {fits ? shownText(shown) : "–"}
          </span>
          <span className="block text-[13px] text-soft">
            {took && shown?.stands_at ? "taken" : HANDS[shown?.hands ?? "waiting"]} ·{" "}
            <Link to="/meters" className="py-2 underline">
              {meter.name}
            </Link>
            {" · "}
            <Link to={recorded} className="py-2 underline">
              record
            </Link>
            {left && `; source ${shownText(live[left.id])}`}
          </span>
        </p>
        <Button
          tone="strong"
          className="h-14 px-4 text-lg"
          disabled={wrong !== ""}
          onClick={pressed}
        >
          Take
        </Button>
      </div>
      {(wrong || says) && (
        <p role="status" className="mt-1 text-[14px] text-ochre">
          {wrong || says}
        </p>
      )}
      <div className="mt-1 flex flex-wrap gap-1.5">
        <Touch on={auto} set={byItself.set} label="Take by itself">
          <Radio size={16} aria-hidden /> by itself
        </Touch>
        <Touch on={tone.use()} set={tone.set} label="Tone">
          {tone.use() ? <Volume2 size={16} aria-hidden /> : <VolumeX size={16} aria-hidden />} tone
        </Touch>
        <Touch
          on={voice.use()}
          set={(on) => {
            voice.set(on);
            if (on) speak("Voice on");
          }}
          label="Voice"
        >
          voice
        </Touch>
        {last && (
          <Button className="ml-auto px-2" aria-label={`Take back ${last}`} onClick={undo}>
            Undo
          </Button>
        )}
      </div>
    </>
  );
}

const HANDS = {
  waiting: "waiting",
  moving: "moving",
  ready: "ready",
  steady: "stands still",
  // Whether this page took it or nobody did: it stands there.
  taken: "stands still",
} as const;

/** One touch, on or off. */
function Touch({
  on,
  set,
  label,
  children,
}: {
  on: boolean;
  set: (on: boolean) => void;
  label: string;
  children: React.ReactNode;
}) {
  return (
    <Button
      aria-label={label}
      aria-pressed={on}
      tone={on ? "strong" : "plain"}
      className="px-2"
      onClick={() => set(!on)}
    >
      {children}
    </Button>
  );
}
