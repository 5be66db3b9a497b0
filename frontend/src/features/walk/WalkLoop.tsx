import { useState } from "react";
import { LoopPicture } from "../../ui/LoopPicture";
import type { Walk } from "./api";

/** The loop of a walk. Two of its points tapped, red first, are measured. */
export function WalkLoop({
  walk,
  red = "",
  black = "",
  onPair,
}: {
  walk: Walk;
  /** The points that a card asks for. */
  red?: string;
  black?: string;
  onPair: (red: string, black: string) => void;
}) {
  const [picked, setPicked] = useState<string | null>(null);
  const name = (id: string) => walk.points.find((p) => p.id === id)?.name ?? id;
  const pick = (point: string) => {
    if (picked !== null && picked !== point) onPair(picked, point);
    setPicked(picked === null ? point : null);
  };
  return (
    <>
      <LoopPicture
        loop={walk.loop}
        red={red}
        black={black}
        picked={picked}
        onPick={pick}
        name={name}
      />
      {picked !== null && (
        <p role="status" className="text-[13px] text-copper">
          Red on {name(picked)}. Now tap the point for black.
        </p>
      )}
    </>
  );
}
