import { useState } from "react";
import { Button } from "../../../ui/Button";
import { Pick, TextField } from "../../../ui/TextField";
import { WrongElsewhere } from "../../../ui/told/WrongElsewhere";
import { wrongWith } from "../../../ui/told/wrong";
import { useFillIn, type Walk } from "../api";

type Piece = Walk["loop"]["feed"][number];
const KINDS = [
  ["unknown", "not known"],
  ["conductor", "wire"],
  ["fuse", "fuse"],
  ["breaker", "breaker"],
  ["switch", "switch"],
  ["joint", "joint"],
  ["body_return", "hull or chassis"],
] as const;

/** The one piece between two points, where there is but one of which not all is said. */
export function undrawnBetween(walk: Walk, red: string, black: string): Piece | undefined {
  return [...walk.loop.feed, ...walk.loop.back].find(
    (p) => p.undrawn && [p.entry, p.exit].includes(red) && [p.entry, p.exit].includes(black),
  );
}

/** What lies between the leads, filled in as far as it is known; the drawing is corrected by it. */
export function WhatLies({ walk, piece }: { walk: Walk; piece: Piece }) {
  const [kind, setKind] = useState<string>(piece.kind);
  const [figures, setFigures] = useState({ size: "", length: "", rating: "" });
  const filling = useFillIn(walk);
  const wire = kind === "conductor";
  const fused = kind === "fuse" || kind === "breaker";
  const field = (key: keyof typeof figures, label: string, hint: string) => (
    <TextField
      className="w-28"
      label={label}
      hint={hint}
      numeric
      value={figures[key]}
      onChange={(value) => setFigures((now) => ({ ...now, [key]: value }))}
      wrong={wrongWith(filling.error, key)}
    />
  );
  return (
    <form
      className="mt-2 flex flex-wrap items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        filling.mutate({
          element: piece.id,
          edit: {
            ...(kind === piece.kind ? {} : { kind: kind as Piece["kind"] }),
            ...(wire ? { size: figures.size, length: figures.length } : {}),
            ...(fused ? { rating: figures.rating } : {}),
          },
        });
      }}
    >
      <Pick label="What is between the leads" value={kind} choices={KINDS} onPick={setKind} />
      {wire && field("size", "Size", "2.5")}
      {wire && field("length", "Length", "3 m")}
      {fused && field("rating", "Rating, A", "15")}
      <Button type="submit" disabled={filling.isPending}>
        Fill it in
      </Button>
      <WrongElsewhere error={filling.error} fields={["size", "length", "rating"]} />
    </form>
  );
}
