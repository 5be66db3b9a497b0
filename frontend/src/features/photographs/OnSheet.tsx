import { useState } from "react";
import { type Shown, usePhotographActs } from "./api";

/** Whether a photograph goes on the hand-over sheet. */
export function OnSheet({
  job,
  photograph,
  note,
  label,
  children,
}: {
  job: string;
  photograph: Shown["photograph"];
  /** What is written under it by now. */
  note: string;
  label?: string;
  children: string;
}) {
  const { write } = usePhotographActs(job);
  // A tick shows at once.
  const [turned, setTurned] = useState<boolean | null>(null);
  return (
    <label className="no-print flex min-h-11 items-center gap-1.5 lg:min-h-8">
      <input
        type="checkbox"
        checked={turned ?? photograph.on_sheet}
        aria-label={label}
        onChange={async (e) => {
          setTurned(e.target.checked);
          await write(photograph.id, { note, on_sheet: e.target.checked });
          setTurned(null);
        }}
        className="size-5"
      />
      {children}
    </label>
  );
}
