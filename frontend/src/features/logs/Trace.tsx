import { useEffect, useRef, useState } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { useWidth } from "../../ui/useWidth";
import { keyOf, type Log } from "./api";

interface Drawn {
  seconds: number[];
  least: (number | null)[][];
  most: (number | null)[][];
}
interface Props {
  log: Log;
  drawn: Drawn;
  /** The window that is picked, in seconds. */
  window: [number, number] | null;
  onPick: (window: [number, number]) => void;
}
const HEIGHT = 150;
const INKS = ["--slate", "--copper", "--ink", "--ochre", "--soft"];
const FILLS = {
  off: "transparent",
  start: "--ochre-fill",
  steady: "--tint",
  change: "--over-fill",
  quiet: "transparent",
} as const;

/** Every channel of a log, one under the other; drag over one to pick a window. */
export function Trace({ log, drawn, window, onPick }: Props) {
  const [frame, width] = useWidth();
  return (
    <div ref={frame} className="space-y-1">
      {width > 0 &&
        log.channels.map((channel, i) => (
          <Channel
            key={keyOf(channel.name, i)}
            log={log}
            drawn={drawn}
            channel={i}
            width={width}
            label={`${channel.name}${channel.unit ? `, ${channel.unit}` : ""}`}
            window={window}
            onPick={onPick}
          />
        ))}
    </div>
  );
}

function Channel({
  log,
  drawn,
  channel,
  width,
  label,
  window,
  onPick,
}: Props & { channel: number; width: number; label: string }) {
  const box = useRef<HTMLDivElement>(null);
  const picked = useRef(window);
  picked.current = window;
  const pick = useRef(onPick);
  pick.current = onPick;
  const plot = useRef<uPlot | null>(null);
  /** What stands under the cursor. */
  const [under, setUnder] = useState("");
  useEffect(() => {
    const place = box.current;
    if (!place) return;
    const style = getComputedStyle(place);
    const ink = (name: string) => style.getPropertyValue(name).trim();
    const own = ink(INKS[channel % INKS.length] ?? "--ink");
    const axis = { stroke: ink("--soft"), grid: { stroke: ink("--line"), width: 1 } };
    const made = new uPlot(
      {
        width,
        height: HEIGHT,
        legend: { show: false },
        // One cursor through every channel.
        cursor: { drag: { x: true, y: false, setScale: false }, sync: { key: log.id } },
        scales: { x: { time: false } },
        axes: [axis, { ...axis, size: 56 }],
        series: [
          {},
          { stroke: own, width: 1, points: { show: false } },
          { stroke: own, width: 1, points: { show: false } },
        ],
        bands: [{ series: [2, 1], fill: `color-mix(in srgb, ${own} 35%, transparent)` }],
        hooks: {
          drawClear: [
            (u) => {
              const { ctx, bbox } = u;
              const band = (from: number, to: number, fill: string) => {
                const a = u.valToPos(from, "x", true);
                ctx.fillStyle = fill;
                ctx.fillRect(a, bbox.top, u.valToPos(to, "x", true) - a, bbox.height);
              };
              ctx.save();
              for (const s of log.segments) {
                const fill = FILLS[s.kind];
                if (fill.startsWith("--")) band(s.start_s, s.end_s, ink(fill));
              }
              const now = picked.current;
              if (now)
                band(now[0], now[1], `color-mix(in srgb, ${ink("--copper")} 22%, transparent)`);
              ctx.restore();
            },
          ],
          setCursor: [
            (u) => {
              const at = u.cursor.idx;
              const [seconds, least, most] = u.data;
              const low = at == null ? null : least?.[at];
              const high = at == null ? null : most?.[at];
              if (at == null || low == null || high == null) return setUnder("");
              const [a, b] = [Number(low.toPrecision(4)), Number(high.toPrecision(4))];
              setUnder(`${seconds[at]?.toFixed(2)} s: ${a === b ? a : `${a} to ${b}`}`);
            },
          ],
          setSelect: [
            (u) => {
              if (u.select.width < 4) return;
              const from = u.posToVal(u.select.left, "x");
              const to = u.posToVal(u.select.left + u.select.width, "x");
              pick.current([Math.max(from, 0), Math.min(to, log.duration_s)]);
              u.setSelect({ left: 0, top: 0, width: 0, height: 0 }, false);
            },
          ],
        },
      },
      [drawn.seconds, drawn.least[channel] ?? [], drawn.most[channel] ?? []],
      place,
    );
    plot.current = made;
    return () => made.destroy();
  }, [log, drawn, channel, width]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the picked window is drawn anew when it changes
  useEffect(() => {
    // Before it is ready it will draw by itself, with the scales that it does not have yet.
    if (plot.current?.status === 1) plot.current.redraw(false);
  }, [window]);
  return (
    <figure>
      <figcaption className="flex justify-between gap-3 text-[13px] text-soft">
        <span>{label}</span>
        <span className="num" aria-hidden>
          {under}
        </span>
      </figcaption>
      <div ref={box} role="img" aria-label={`Trace of ${label}; its figures stand below`} />
    </figure>
  );
}
