import { useEffect, useRef } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { useWidth } from "../../ui/useWidth";
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
  const data = useRef<{ at: number[]; values: (number | null)[] }>({ at: [], values: [] });
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
        cursor: { drag: { x: false, y: false } },
        // The time of day by itself: all of it is of this minute.
        axes: [
          { ...axis, space: 90, values: (_, at) => at.map(ofDay) },
          { ...axis, size: 56 },
        ],
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
    const first = held.at.findIndex((t) => t >= at - SHOWN_S);
    if (first > 0) data.current = { at: held.at.slice(first), values: held.values.slice(first) };
    plot.current?.setData([data.current.at, data.current.values]);
  }, [shown]);
  return (
    <figure ref={frame}>
      <figcaption className="text-[13px] text-soft">{name}, the last minute</figcaption>
      <div
        ref={box}
        role="img"
        aria-label={`Trace of ${name}; what it shows now stands above`}
        style={{ minHeight: HEIGHT }}
      />
    </figure>
  );
}
