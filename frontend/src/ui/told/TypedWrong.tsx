import { useState } from "react";
import type { Schema } from "../../api/client";
import { Button } from "../Button";

type Doubted = Schema["ToldReading"];

/** Readings that cannot all stand: whoever typed one of them wrong says which. The record keeps it. */
export function TypedWrong({
  doubted,
  onWrong,
}: {
  doubted: Doubted[];
  /** Takes it back; resolves to what was wrong with that, or null. */
  onWrong: (doubted: Doubted) => Promise<string | null>;
}) {
  const [trouble, setTrouble] = useState<string | null>(null);
  if (doubted.length === 0) return null;
  return (
    <fieldset className="border-l-2 border-ochre pl-2">
      <legend className="sr-only">Readings that may have been typed wrong</legend>
      <span>I typed this wrong: </span>
      {doubted.map((d) => (
        <Button
          key={d.reading}
          className="my-0.5 mr-1.5 text-left"
          onClick={async () => setTrouble(await onWrong(d))}
        >
          {d.says}
        </Button>
      ))}
      {trouble && (
        <p role="alert" className="text-over">
          {trouble}
        </p>
      )}
    </fieldset>
  );
}
