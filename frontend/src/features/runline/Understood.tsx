import type { Schema } from "../../api/client";
import { backWord } from "../../format/format";

interface Props {
  text: string;
  read: Schema["ReadText"] | undefined;
  errors: Schema["LineTrouble"][];
}

/** What a run line was understood as, piece by piece, and what is wrong with it in words. */
export function Understood({ text, read, errors }: Props) {
  if (!text.trim() || !read) return <p className="min-h-6" />;
  const load = read.understood.findIndex((u) => u.what === "load");
  const pieces = read.understood.filter((u) => u.what === "piece").length;
  return (
    <>
      <ol aria-label="As understood" className="mt-1 flex flex-wrap items-center gap-x-1 gap-y-1">
        {read.understood.map((u, i) => (
          <li
            key={`${u.start} ${u.says}`}
            className={
              u.what === "point"
                ? `text-[12px] ${u.new ? "text-slate" : "text-soft"}`
                : u.what === "load"
                  ? "rounded border-2 border-ink bg-plate px-1.5 font-bold"
                  : "rounded border border-copper bg-plate px-1.5"
            }
          >
            {u.what === "point" ? `${u.new ? "new point " : "○ "}${u.says}` : u.says}
            <span className="sr-only">
              {u.what === "piece" && load >= 0 ? `, ${i < load ? "feed" : backWord()}` : ""}
            </span>
          </li>
        ))}
      </ol>
      <p className="mt-1 min-h-5 text-[13px] text-soft">
        {errors.length === 0 && pieces > 0 && load >= 0 && (
          <>
            {pieces} {pieces === 1 ? "piece" : "pieces"}. Enter draws it.
          </>
        )}
        {errors.length === 0 && load < 0 && pieces > 0 && "No load on it yet."}
      </p>
      {errors.map((e) => (
        <p key={`${e.start} ${e.problem}`} role="alert" className="text-[13px] text-over">
          <b className="num">{text.slice(e.start, e.end).slice(0, 40)}</b> {e.problem}
          {e.accepted && <span className="text-soft"> — accepted: {e.accepted}</span>}
        </p>
      ))}
    </>
  );
}
