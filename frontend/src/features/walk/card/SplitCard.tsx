import { useState } from "react";
import { type Schema, sentence } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { OneOf } from "../../../ui/OneOf";
import { TextField } from "../../../ui/TextField";
import { wrongWith } from "../../../ui/told/wrong";
import { useSplit, type Walk } from "../api";
import { useWalkActs } from "../useWalkActs";
import { WalkLoop } from "../WalkLoop";

type Place = Schema["SplitForm"]["place"];
const PLACES: [Place, string][] = [
  ["fuse", "Fuse, in and out"],
  ["switch", "Switch, in and out"],
  ["relay", "Relay, 30 and 87"],
  ["plug", "Plug, in and out"],
  ["splice", "Splice"],
  ["ring", "Ground stud"],
  ["breaker", "Breaker"],
  ["point", "Anywhere else"],
];
const REACH = [
  { id: "open", name: "in the open" },
  { id: "backprobe", name: "back-probe" },
  { id: "trim", name: "behind trim" },
];

/** A stretch that nobody has drawn holds the trouble: where can a lead touch it in between? */
export function SplitCard({
  walk,
  split,
  onPair,
}: {
  walk: Walk;
  split: NonNullable<Walk["split"]>;
  onPair: (red: string, black: string) => void;
}) {
  const { note } = useWalkActs(walk);
  const splitting = useSplit(walk);
  const [name, setName] = useState("");
  const [access, setAccess] = useState("open");
  const [wrong, setWrong] = useState<string | null>(null);
  return (
    <section
      aria-label="Where can you get a probe on it in between?"
      className="rounded-lg border-2 border-ink bg-plate p-2.5"
    >
      <h2 className="text-lg leading-tight font-bold">
        Where can you get a probe on it in between?
      </h2>
      <WalkLoop walk={walk} onPair={onPair} />
      <p className="mt-1">{split.says} Near the middle is best.</p>
      <div className="mt-2 grid grid-cols-2 gap-2">
        {PLACES.map(([place, word]) => (
          <Button
            key={place}
            className="min-h-14 justify-start text-left"
            disabled={splitting.isPending}
            onClick={() =>
              splitting.mutate({
                piece: split.piece,
                place,
                name,
                access: access as Schema["SplitForm"]["access"],
              })
            }
          >
            {word}
          </Button>
        ))}
      </div>
      {splitting.isError && !wrongWith(splitting.error, "name") && (
        <p role="alert" className="mt-1 text-over">
          {sentence(splitting.error)}
        </p>
      )}
      <details className="mt-2">
        <summary className="min-h-11 py-3 text-soft">its name, how it is reached</summary>
        <TextField
          label="What it is called here"
          hint="e.g. plug behind the panel"
          value={name}
          onChange={setName}
          wrong={wrongWith(splitting.error, "name")}
        />
        <div className="mt-2">
          <OneOf label="How it is reached" value={access} choices={REACH} onPick={setAccess} />
        </div>
      </details>
      <Button
        className="mt-2 w-full"
        onClick={async () => setWrong(await note(split.step, "skipped", "nowhere in between"))}
      >
        No access in between. Stop here
      </Button>
      {wrong && (
        <p role="alert" className="mt-1 text-over">
          {wrong}
        </p>
      )}
    </section>
  );
}
