import { useEffect, useRef, useState } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { useWidth } from "../../ui/useWidth";
import { shownText } from "../meters/figure";
import type { Shown } from "../meters/live";

const HEIGHT = 150;
/** So many seconds are in sight. */
const SHOWN_S = 60;

const ofDay = (seconds: number) => new Date(seconds * 1000).toTimeString().slice(0, 8);

/** What a meter showed in the last minute, as it comes. */
export function LiveTrace({ name, shown }: { name: string; shown: Shown | undefined }) {
  const [frame, width] = useWidth();
  const box = useRef<HTMLDivElement>(null);
  const plot = useRef<uPlot | null>(null);
  const data = useRef<{ at: number[]; values: (number | null)[]; shown: Shown[] }>({
    at: [],
    values: [],
    shown: [],
  });
  /** What stood under the cursor. */
  const [under, setUnder] = useState("");
  useEffect(() => {
    const place = box.current;
    if (!place || width <= 0) return;
    const style = getComputedStyle(place);
    const ink = (key: string) => style.getPropertyValue(key).trim();
    const axis = { stroke: ink("--soft"), grid: { stroke: ink("--line"), width: 1 } };
    const made = new uPlot(
      {
        width,
        height: HEIGHT,
        legend: { show: false },
        // One cursor through every meter.
        cursor: { drag: { x: false, y: false }, sync: { key: "live", scales: ["x", null] } },
        // The time of day by itself: all of it is of this minute.
        axes: [
          { ...axis, space: 90, values: (_, at) => at.map(ofDay) },
          { ...axis, size: 56 },
        ],
        hooks: {
          setCursor: [
            (u) => {
              const { at, shown } = data.current;
              const i = u.cursor.idx;
              const [time, then] = i == null ? [] : [at[i], shown[i]];
              setUnder(time && then ? `${ofDay(time)}: ${shownText(then)}` : "");
            },
          ],
        },
        series: [{}, { stroke: ink("--slate"), width: 1.5, points: { show: false } }],
      },
      [data.current.at, data.current.values],
      place,
    );
    plot.current = made;
    return () => {
      made.destroy();
      plot.current = null;
    };
  }, [width]);
  useEffect(() => {
    if (!shown?.taken_at) return;
    const at = Date.parse(shown.taken_at) / 1000;
    const held = data.current;
    if (held.at.length > 0 && at <= (held.at.at(-1) ?? 0)) return;
    held.at.push(at);
    held.values.push(shown.value);
    held.shown.push(shown);
    const first = held.at.findIndex((t) => t >= at - SHOWN_S);
    if (first > 0) {
      data.current = {
        at: held.at.slice(first),
        values: held.values.slice(first),
        shown: held.shown.slice(first),
      };
    }
    plot.current?.setData([data.current.at, data.current.values]);
  }, [shown]);
  return (
    <figure ref={frame}>
      <figcaption className="flex flex-wrap justify-between gap-x-3 text-[13px] text-soft">
        {name}, the last minute
        <span className="num">{under}</span>
      </figcaption>
      <div
        ref={box}
        role="img"
        aria-label={`Trace of ${name}; what it shows now stands above`}
        style={{ minHeight: HEIGHT }}
      />
    </figure>
  );
}
