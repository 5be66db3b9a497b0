import { type ReactNode, useEffect, useId, useRef, useState } from "react";
import { flushSync } from "react-dom";
import type { Schema } from "../../api/client";
import { Understood } from "./Understood";
import { useReadLine } from "./useReadLine";

interface Props {
  job: string;
  stage?: string;
  label: string;
  value: string;
  onChange: (text: string) => void;
  /** Draws the line; resolves to what was wrong, or null. */
  onDraw: () => Promise<string | null>;
  /** Told whether the line has its load, as soon as it is read. */
  onLoaded?: (loaded: boolean) => void;
  autoFocus?: boolean;
  onEscape?: () => void;
  /** What can be done with the line. Right under the box: its answer comes and goes below. */
  children?: ReactNode;
}

/** A run as one line of text: read as it is typed, completed by Tab, drawn by Enter. */
export function RunLineBox({
  job,
  stage,
  label,
  value,
  onChange,
  onDraw,
  onLoaded,
  autoFocus,
  onEscape,
  children,
}: Props) {
  const id = useId();
  const box = useRef<HTMLTextAreaElement>(null);
  const [caret, setCaret] = useState(0);
  const [chosen, setChosen] = useState(0);
  const [closed, setClosed] = useState(true);
  const [refused, setRefused] = useState<string | null>(null);
  const { read, asked } = useReadLine(job, stage, value, caret);
  const loaded = value.trim() !== "" && (read?.understood ?? []).some((u) => u.what === "load");
  useEffect(() => onLoaded?.(loaded), [loaded, onLoaded]);
  const offered = closed || asked !== value ? [] : (read?.completions ?? []);
  const pick = Math.min(chosen, offered.length - 1);
  // While the caret is still in the last word, that word may yet become right.
  const errors = (read?.errors ?? []).filter(
    (e) =>
      value.trim() !== "" &&
      asked === value &&
      !(e.end >= value.trimEnd().length && caret >= e.start && !closed),
  );

  const put = (completion: Schema["Completion"]) => {
    if (!read) return;
    const text = value.slice(0, read.start) + completion.text + value.slice(read.end);
    const named = completion.text.indexOf('""');
    const at = read.start + (named >= 0 ? named + 1 : completion.text.length);
    // At once: the next key must find the caret where it belongs.
    flushSync(() => {
      onChange(text);
      setClosed(true);
      setChosen(0);
      setCaret(at);
    });
    box.current?.focus();
    box.current?.setSelectionRange(at, at);
  };
  const draw = async () => {
    setClosed(true);
    if (!value.trim()) return;
    setRefused(await onDraw());
  };
  const onKeyDown = (event: React.KeyboardEvent) => {
    const open = offered.length > 0;
    if (event.key === "Enter" && !event.shiftKey) {
      event.preventDefault();
      draw();
    } else if (open && event.key === "Tab" && !event.shiftKey) {
      event.preventDefault();
      const completion = offered[pick];
      if (completion) put(completion);
    } else if (open && (event.key === "ArrowDown" || event.key === "ArrowUp")) {
      event.preventDefault();
      const step = event.key === "ArrowDown" ? 1 : -1;
      setChosen((pick + step + offered.length) % offered.length);
    } else if (event.key === "Escape") {
      event.stopPropagation();
      if (open) setClosed(true);
      else onEscape?.();
    }
  };
  return (
    <div className="relative">
      <label htmlFor={id} className="mb-0.5 block text-[13px] text-soft">
        {label}
      </label>
      <div className="relative rounded border border-rule bg-plate">
        <Marked text={value} errors={errors} />
        <textarea
          id={id}
          ref={box}
          value={value}
          rows={2}
          // biome-ignore lint/a11y/noAutofocus: opened to type in
          autoFocus={autoFocus}
          spellCheck={false}
          autoComplete="off"
          autoCapitalize="off"
          aria-haspopup="listbox"
          aria-controls={`${id}-offered`}
          aria-autocomplete="list"
          aria-activedescendant={offered.length > 0 ? `${id}-${pick}` : undefined}
          aria-describedby={`${id}-says`}
          aria-invalid={errors.length > 0 || refused !== null}
          placeholder='fuse 15 > 2.5 mm² 4.8 m > pin > load "Fan" 2 A > pin > 2.5 mm² 4.8 m > ring'
          className="num relative block max-h-60 min-h-[3.6em] w-full resize-y bg-transparent p-2 text-[14px] leading-[1.5] outline-offset-[-2px]"
          onChange={(e) => {
            onChange(e.target.value);
            setCaret(e.target.selectionStart);
            setClosed(false);
            setChosen(0);
            setRefused(null);
          }}
          onSelect={(e) => setCaret(e.currentTarget.selectionStart)}
          onKeyDown={onKeyDown}
          onBlur={() => setClosed(true)}
        />
      </div>
      {children}
      <div id={`${id}-says`} aria-live="polite">
        {refused && (
          <p role="alert" className="mt-1 text-over">
            {refused}
          </p>
        )}
        <Understood text={value} read={asked === value ? read : undefined} errors={errors} />
      </div>
      <Offered id={id} offered={offered} pick={pick} onPut={put} />
    </div>
  );
}

/** What could stand where the caret is. */
function Offered({
  id,
  offered,
  pick,
  onPut,
}: {
  id: string;
  offered: Schema["Completion"][];
  pick: number;
  onPut: (completion: Schema["Completion"]) => void;
}) {
  return (
    <ul
      id={`${id}-offered`}
      // biome-ignore lint/a11y/noNoninteractiveElementToInteractiveRole: the box above points into it
      role="listbox"
      aria-label="What could stand here"
      className={
        offered.length
          ? "absolute z-30 max-h-72 w-full max-w-xl overflow-auto rounded border border-rule bg-plate shadow-md"
          : "hidden"
      }
    >
      {offered.map((completion, i) => (
        // biome-ignore lint/a11y/useKeyWithClickEvents: the keys are those of the box
        <li
          key={completion.text}
          id={`${id}-${i}`}
          // biome-ignore lint/a11y/noNoninteractiveElementToInteractiveRole: see the list
          role="option"
          aria-selected={i === pick}
          tabIndex={-1}
          onMouseDown={(e) => e.preventDefault()}
          onClick={() => onPut(completion)}
          className={`flex min-h-9 cursor-pointer items-baseline gap-3 px-2 py-1.5 ${i === pick ? "bg-tint" : ""}`}
        >
          <span className="num">{completion.text}</span>
          <span className="ml-auto text-right text-[13px] text-soft">{completion.says}</span>
        </li>
      ))}
    </ul>
  );
}

/** The text once more behind the box, with what is wrong underlined where it stands. */
function Marked({ text, errors }: { text: string; errors: Schema["LineTrouble"][] }) {
  const parts: React.ReactNode[] = [];
  let at = 0;
  for (const error of [...errors].sort((a, b) => a.start - b.start)) {
    if (error.start < at) continue;
    parts.push(text.slice(at, error.start));
    parts.push(
      <mark
        key={error.start}
        className="hatch-over rounded-sm text-transparent underline decoration-over decoration-wavy underline-offset-4"
      >
        {text.slice(error.start, error.end) || " "}
      </mark>,
    );
    at = error.end;
  }
  parts.push(text.slice(at));
  return (
    <div
      aria-hidden
      className="num pointer-events-none absolute inset-0 overflow-hidden p-2 text-[14px] leading-[1.5] break-words whitespace-pre-wrap text-transparent"
    >
      {parts}
    </div>
  );
}
