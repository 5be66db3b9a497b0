import { Link } from "react-router";
import { sentence } from "../../api/client";
import { Button } from "../../ui/Button";
import { LoopPicture } from "../../ui/LoopPicture";
import { useSay } from "../../ui/told/Notices";
import type { Walk } from "../walk/api";
import { type Recording, useRecordingActs } from "./api";

type Change = Recording["changes"][number];

/** The recordings of a job, and what came of them. */
export function Recordings({
  walk,
  all,
  red,
  black,
}: {
  walk: Walk;
  all: Recording[];
  red: string;
  black: string;
}) {
  if (all.length === 0) return null;
  return (
    <section aria-label="Recordings" className="mt-4">
      <h2 className="font-bold">Recordings</h2>
      <ul className="border-b border-line">
        {all.map((recording) => (
          <One key={recording.id} walk={walk} recording={recording} red={red} black={black} />
        ))}
      </ul>
    </section>
  );
}

function One({
  walk,
  recording,
  red,
  black,
}: {
  walk: Walk;
  recording: Recording;
  red: string;
  black: string;
}) {
  const { stop, moving } = useRecordingActs(walk.job);
  const say = useSay();
  const onError = (error: unknown) => say(sentence(error), { bad: true });
  const watching = recording.kind === "watch" && !recording.is_over;
  const pieces = [...walk.loop.feed, ...walk.loop.back];
  const now = pieces.find((p) => p.id === recording.moving)?.name;
  return (
    <li className="border-t border-line py-2">
      <div className="flex flex-wrap items-center gap-x-3">
        <p className="min-w-0 flex-1">
          {recording.saved ? (
            <Link
              to={`/jobs/${walk.job}/logs/${recording.id}`}
              className="py-2 font-bold text-slate underline"
            >
              {recording.name}
            </Link>
          ) : (
            <b>{recording.name}</b>
          )}
          <span role="status" className="block">
            {recording.says}
          </span>
        </p>
        {!recording.is_over && (
          <Button
            aria-label={`Stop ${recording.name}`}
            onClick={() => stop.mutate(recording.id, { onError })}
          >
            Stop
          </Button>
        )}
      </div>
      {recording.wrong && (
        <p role="alert" className="text-over">
          {recording.wrong}
        </p>
      )}
      {watching && (
        <>
          <div className="flex flex-wrap items-center gap-x-2 text-[14px]">
            <span>{now ? "Moving" : "Tap what you shake, warm or press, then do it:"}</span>
            <select
              aria-label="What is moved"
              value={recording.moving}
              className="min-h-11 min-w-0 flex-1 rounded border border-rule bg-canvas px-2"
              onChange={(e) =>
                moving.mutate({ id: recording.id, piece: e.target.value }, { onError })
              }
            >
              <option value="">nothing</option>
              {pieces.map((p) => (
                <option key={p.id} value={p.id}>
                  {p.name}
                </option>
              ))}
            </select>
          </div>
          {now && <p className="text-[14px]">A change now counts against it.</p>}
          <LoopPicture
            loop={walk.loop}
            red={red}
            black={black}
            picked={null}
            name={(id) => walk.points.find((p) => p.id === id)?.name ?? id}
            pieces={{
              moving: recording.moving,
              onTap: (piece) => moving.mutate({ id: recording.id, piece }, { onError }),
            }}
          />
        </>
      )}
      {recording.changes.length > 0 && (
        <ol className="mt-1 space-y-1">
          {recording.changes.map((change) => (
            <ChangeLine key={change.number} walk={walk} recording={recording} change={change} />
          ))}
        </ol>
      )}
      {recording.more_changes > 0 && (
        <p className="text-soft">and {recording.more_changes} more, counted only</p>
      )}
    </li>
  );
}

function ChangeLine({
  walk,
  recording,
  change,
}: {
  walk: Walk;
  recording: Recording;
  change: Change;
}) {
  const { moved } = useRecordingActs(walk.job);
  const say = useSay();
  const pieces = [...walk.loop.feed, ...walk.loop.back];
  const name = pieces.find((p) => p.id === change.moved)?.name ?? change.moved;
  return (
    <li className="flex flex-wrap items-center gap-x-3 border-l-2 border-ochre pl-2">
      <span className="min-w-0 flex-1">
        <b>{change.at}</b> {change.says}
        {change.moved && <span className="text-soft">, moving {name}</span>}
        {change.moved === "" && <span className="text-soft">, with nothing moved</span>}
        {change.taken && <span className="text-soft">; kept as readings</span>}
      </span>
      {change.can_say && (
        <select
          aria-label={`What was moved at ${change.at}`}
          value="?"
          className="min-h-11 max-w-full rounded border border-rule bg-canvas px-2"
          onChange={(e) =>
            moved.mutate(
              {
                id: recording.id,
                change: change.number,
                piece: e.target.value === "-" ? "" : e.target.value,
              },
              { onError: (error) => say(sentence(error), { bad: true }) },
            )
          }
        >
          <option value="?">what was moved?</option>
          <option value="-">nothing</option>
          {pieces.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}
            </option>
          ))}
        </select>
      )}
    </li>
  );
}
