import { Camera } from "lucide-react";
import type { ReactNode } from "react";
import { ACCEPT, type Of, type Stage, usePhotographActs } from "./api";

/** A button that asks the camera or the gallery for photographs, one or several. */
export function AddPhotographs({
  job,
  of,
  stage,
  name,
  label,
  children,
  className = "",
}: {
  job: string;
  of: Of;
  stage: Stage;
  /** What they are of, in words. */
  name: string;
  /** What it is called for who does not see it. */
  label: string;
  children?: ReactNode;
  className?: string;
}) {
  const { add } = usePhotographActs(job);
  return (
    <label
      className={`no-print inline-flex min-h-11 cursor-pointer items-center justify-center gap-1.5 rounded border border-rule bg-plate px-3 font-bold focus-within:outline-2 focus-within:outline-offset-2 hover:bg-tint lg:min-h-8 lg:px-2.5 ${className}`}
    >
      <Camera size={17} aria-hidden />
      {children}
      <input
        type="file"
        accept={ACCEPT}
        multiple
        aria-label={label}
        className="sr-only"
        onChange={async (e) => {
          const box = e.currentTarget;
          await add(Array.from(box.files ?? []), of, stage, name);
          // The same file may be chosen again.
          box.value = "";
        }}
      />
    </label>
  );
}
