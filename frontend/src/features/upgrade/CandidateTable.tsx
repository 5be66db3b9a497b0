import { ArrowDown, ArrowUp, Check, ChevronDown, ChevronRight } from "lucide-react";
import { Fragment, useState } from "react";
import type { Verdict } from "../../api/client";
import { bare, whole } from "../../format/format";
import { Button } from "../../ui/Button";
import { INK, Sign } from "../../ui/told/Verdict";
import type { Bench, Candidate } from "./api";
import { Details } from "./Details";
import { SpentBars } from "./SpentBars";

type Head = { id: string; name: string; value: (c: Candidate) => number; down?: boolean };
const HEADS: Head[] = [
  { id: "spare", name: "Spare V", value: (c) => c.spare_v?.si ?? 0, down: true },
  { id: "load", name: "At the load V", value: (c) => c.load_v?.si ?? 0, down: true },
  { id: "lost", name: "Total drop V", value: (c) => c.lost_v?.si ?? 0 },
  { id: "heat", name: "Heat saved W", value: (c) => c.heat_saved_w.si, down: true },
  { id: "switch", name: "Switch A", value: (c) => c.switch_after_a?.si ?? 0 },
  { id: "copper", name: "Copper kg", value: (c) => c.copper_kg.si },
  { id: "price", name: "Price", value: (c) => c.price ?? 1e9 },
  { id: "minutes", name: "Minutes", value: (c) => c.minutes },
];

interface Props {
  bench: Bench;
  candidates: Candidate[];
  onTake: (candidate: Candidate) => void;
  busy: boolean;
}

/** Candidates side by side, sortable by any figure; each opens to all that is known of it. */
export function CandidateTable({ bench, candidates, onTake, busy }: Props) {
  const [sorted, setSorted] = useState<{ id: string; down: boolean } | null>(null);
  const [open, setOpen] = useState<string | null>(null);
  const head = HEADS.find((h) => h.id === sorted?.id);
  const rows = head
    ? [...candidates].sort((a, b) => (head.value(a) - head.value(b)) * (sorted?.down ? -1 : 1))
    : candidates;
  const sort = (h: Head) =>
    setSorted((was) =>
      was?.id !== h.id ? { id: h.id, down: h.down ?? false } : { id: h.id, down: !was.down },
    );
  return (
    <table className="w-full max-lg:block">
      <thead className="text-left text-[13px] text-soft max-lg:hidden">
        <tr className="align-bottom">
          <th className="font-normal">Option</th>
          <th className="px-2 font-normal">Voltage drop, before ┄ and after</th>
          {HEADS.map((h) => (
            <th
              key={h.id}
              className="p-0 text-right font-normal"
              aria-sort={sorted?.id !== h.id ? undefined : sorted.down ? "descending" : "ascending"}
            >
              <button
                type="button"
                className="inline-flex min-h-8 items-center gap-0.5 px-1.5 hover:bg-tint"
                onClick={() => sort(h)}
              >
                {h.name}
                {sorted?.id === h.id &&
                  (sorted.down ? (
                    <ArrowDown size={12} aria-hidden />
                  ) : (
                    <ArrowUp size={12} aria-hidden />
                  ))}
              </button>
            </th>
          ))}
          <th>
            <span className="sr-only">take it</span>
          </th>
        </tr>
      </thead>
      <tbody className="max-lg:block">
        {rows.map((c) => (
          <Fragment key={c.id}>
            <Row
              candidate={c}
              best={bench.best === c.id}
              open={open === c.id}
              onOpen={() => setOpen(open === c.id ? null : c.id)}
              onTake={() => onTake(c)}
              busy={busy}
            />
            {open === c.id && (
              <tr className="bg-plate max-lg:block">
                <td colSpan={HEADS.length + 3} className="px-3 max-lg:block">
                  <Details candidate={c} />
                </td>
              </tr>
            )}
          </Fragment>
        ))}
      </tbody>
    </table>
  );
}

function signOf(c: Candidate): Verdict {
  if (!c.holds) return c.uncertain ? "too_close" : "over";
  return c.unread ? "not_measured" : "within";
}

interface RowProps {
  candidate: Candidate;
  best: boolean;
  open: boolean;
  onOpen: () => void;
  onTake: () => void;
  busy: boolean;
}

function Row({ candidate: c, best, open, onOpen, onTake, busy }: RowProps) {
  const figures: [string, string, string][] = [
    [
      "Spare V",
      c.spare_v ? bare(c.spare_v) : "?",
      !c.spare_v ? "" : c.holds ? INK.within : c.spare_v.si < 0 ? INK.over : "",
    ],
    [
      "At the load V",
      c.unread ? "?" : c.load_v ? bare(c.load_v) : "drops out",
      c.unread || c.load_v ? "" : INK.over,
    ],
    ["Total drop V", c.lost_v ? bare(c.lost_v) : "?", ""],
    ["Heat saved W", bare(c.heat_saved_w), ""],
    [
      "Switch A",
      c.switch_before_a && c.switch_after_a && c.switch_before_a.text !== c.switch_after_a.text
        ? `${bare(c.switch_before_a)} → ${bare(c.switch_after_a)}`
        : bare(c.switch_after_a) || "–",
      "",
    ],
    ["Copper kg", bare(c.copper_kg), ""],
    ["price", c.price_text, ""],
    ["minutes", c.minutes_text, ""],
  ];
  return (
    <tr
      data-testid={`candidate ${c.id}`}
      className={`border-t border-line align-top max-lg:grid max-lg:grid-cols-4 max-lg:gap-x-2 max-lg:py-2 ${best ? "bg-tint" : ""}`}
    >
      <td className="py-1.5 pl-1 max-lg:col-span-4">
        <button
          type="button"
          aria-expanded={open}
          className="flex min-h-11 w-full items-start gap-1 text-left lg:min-h-8"
          onClick={onOpen}
        >
          {open ? (
            <ChevronDown size={16} aria-hidden className="mt-0.5 shrink-0" />
          ) : (
            <ChevronRight size={16} aria-hidden className="mt-0.5 shrink-0" />
          )}
          <span>
            <Sign verdict={signOf(c)} /> <b>{c.title}</b>
            {best && <span className="text-slate"> · recommended</span>}
            {c.short && <span className="block text-[13px] text-soft">{c.short}</span>}
            {c.beaten_by && (
              <span className="block text-[13px] text-soft">
                {c.beaten_by} gives as much spare at no more cost
              </span>
            )}
          </span>
        </button>
      </td>
      <td className="px-2 py-2 max-lg:col-span-4">
        <SpentBars bars={c.bars} />
      </td>
      {figures.map(([name, value, tone]) => (
        <td
          key={name}
          className={`num whitespace-nowrap px-1.5 py-2 text-right max-lg:text-left ${tone}`}
        >
          <span className="block font-sans text-[12px] text-soft lg:hidden">{name}</span>
          {value}
        </td>
      ))}
      <td className="py-1 pl-1 text-right max-lg:col-span-4">
        {c.taken ? (
          <span className="inline-flex min-h-8 items-center gap-1 font-bold text-slate">
            <Check size={15} aria-hidden /> planned
          </span>
        ) : (
          <Button
            tone={best ? "strong" : "plain"}
            disabled={busy}
            aria-label={`Plan this: ${c.title}${c.spare_v ? `, ${whole(c.spare_v)} spare` : ""}`}
            className="whitespace-nowrap max-lg:w-full"
            onClick={onTake}
          >
            Plan this
          </Button>
        )}
      </td>
    </tr>
  );
}
