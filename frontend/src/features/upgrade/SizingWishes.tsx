import type { ReactNode } from "react";
import { OneOf } from "../../ui/OneOf";
import { Pick } from "../../ui/TextField";
import type { Sizing } from "./api";

/** What is wished of the sizes. */
export interface Wishes {
  objective: Sizing["objective"];
  /** Only what has no size yet. */
  freeOnly: boolean;
  /** Of which wire, by its name. */
  sort: string;
  thicker: boolean;
  mend: boolean;
}

const SYSTEMS = { mm2: "mm²", "mm2-road": "mm² road", awg: "AWG" };

/** What a sort of wire is called. */
export function nameOf({ system, finish, insulation_c }: Sizing["sort"]): string {
  return `${SYSTEMS[system]}${finish === "plain" ? "" : ` ${finish}`}, ${insulation_c} °C`;
}

/** What is to be least, which wire, what may change. */
export function SizingWishes({
  sizing,
  wishes,
  set,
}: {
  sizing: Sizing;
  wishes: Wishes;
  set: (more: Partial<Wishes>) => void;
}) {
  const free = sizing.to_size > 0;
  return (
    <>
      <OneOf
        label="What is to be least"
        value={wishes.objective}
        choices={[
          { id: "copper", name: "least copper" },
          { id: "price", name: "least price" },
        ]}
        onPick={(id) => set({ objective: id === "price" ? "price" : "copper" })}
      />
      {free && (
        <Tick on={wishes.freeOnly} set={(freeOnly) => set({ freeOnly })}>
          Only what has no size yet
        </Tick>
      )}
      {free && (
        <Pick
          label="New wire"
          value={wishes.sort}
          choices={sizing.sorts.map((s) => [nameOf(s), nameOf(s)])}
          onPick={(sort) => set({ sort })}
        />
      )}
      {!(wishes.freeOnly && free) && (
        <Tick on={wishes.thicker} set={(thicker) => set({ thicker })}>
          Only go thicker
        </Tick>
      )}
      {sizing.guilty.length > 0 && (
        <Tick on={wishes.mend} set={(mend) => set({ mend })}>
          Repair the found faults first: {sizing.guilty.join(", ")}
        </Tick>
      )}
    </>
  );
}

function Tick({
  on,
  set,
  children,
}: {
  on: boolean;
  set: (on: boolean) => void;
  children: ReactNode;
}) {
  return (
    <label className="inline-flex min-h-11 items-center gap-1.5 lg:min-h-8">
      <input type="checkbox" checked={on} onChange={(e) => set(e.target.checked)} />
      <span>{children}</span>
    </label>
  );
}
