import { useState } from "react";
import { clock } from "../../../format/day";
import { Button } from "../../../ui/Button";
import type { Walk } from "../api";
import { useWalkActs } from "../useWalkActs";

const USUAL = ["hums, does not turn", "discoloured", "green under the sleeve", "warm to the hand"];

/** What was seen or heard: a note with its moment. */
export function Seen({ walk }: { walk: Walk }) {
  const { note } = useWalkActs(walk);
  const [text, setText] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  const keep = async (said: string) => {
    if (!said.trim()) return;
    const trouble = await note("seen", "seen", said.trim());
    setWrong(trouble);
    if (trouble === null) setText("");
  };
  return (
    <details className="mt-3 rounded-lg border border-rule bg-plate px-3">
      <summary className="min-h-11 py-3 font-bold">
        Seen or heard{walk.seen.length > 0 && ` (${walk.seen.length})`}
      </summary>
      <form
        className="flex gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          keep(text);
        }}
      >
        <input
          aria-label="What was seen or heard"
          placeholder="what, and where"
          value={text}
          maxLength={2000}
          onChange={(e) => setText(e.target.value)}
          className="min-h-11 min-w-0 flex-1 rounded border border-rule bg-canvas px-2"
        />
        <Button type="submit">Note it</Button>
      </form>
      <div className="mt-2 flex flex-wrap gap-1.5">
        {USUAL.map((each) => (
          <Button
            key={each}
            tone="quiet"
            className="border-line font-normal"
            onClick={() => setText((now) => (now ? `${now}, ${each}` : each))}
          >
            {each}
          </Button>
        ))}
      </div>
      {wrong && (
        <p role="alert" className="mt-1 text-over">
          {wrong}
        </p>
      )}
      <ul className="mt-2 space-y-1 pb-3 text-[14px]">
        {walk.seen.map((s) => (
          <li key={s.id} className="flex items-center gap-2">
            <span className="min-w-0 flex-1 break-words">
              {s.says}{" "}
              <time dateTime={s.at} className="text-soft">
                {clock(s.at)}
                {s.who && `, ${s.who}`}
              </time>
            </span>
            <Button
              tone="quiet"
              aria-label={`Take back: ${s.says}`}
              onClick={async () => setWrong(await note(`seen ${s.id}`, "back"))}
            >
              Take back
            </Button>
          </li>
        ))}
      </ul>
    </details>
  );
}
