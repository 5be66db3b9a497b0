import { useEffect, useId, useRef, useState } from "react";

interface Props {
  label: string;
  value: string;
  hint?: string;
  list?: string[];
  /** Called while typing, with null when what is typed is what is kept. */
  onWonder: (text: string | null) => void;
  /** Keeps the text; resolves to what was wrong, or null. */
  onKeep: (text: string) => Promise<string | null>;
}

/** A figure of the inspector: live while typing, kept on Enter or on leaving it, dropped by Escape. */
export function Field({ label, value, hint, list, onWonder, onKeep }: Props) {
  const [text, setText] = useState(value);
  const [wrong, setWrong] = useState<string | null>(null);
  const editing = useRef(false);
  const latest = useRef(value);
  const keeping = useRef<string | null>(null);
  const typed = useRef(value);
  const id = useId();
  useEffect(() => {
    latest.current = value;
    if (!editing.current) setText(value);
  }, [value]);
  const keep = async () => {
    typed.current = text;
    if (text.trim() === value.trim()) {
      setWrong(null);
      onWonder(null);
      return;
    }
    // Enter keeps, and leaving the field a moment later is not a second change.
    if (keeping.current === text) return;
    keeping.current = text;
    const trouble = await onKeep(text);
    keeping.current = null;
    // Typed on meanwhile: the answer is about something that stands here no more.
    if (typed.current !== text) return;
    setWrong(trouble);
    if (trouble !== null) return;
    editing.current = false;
    // What was kept may have come by another way before its own answer did.
    if (latest.current !== value) setText(latest.current);
  };
  return (
    <div className="flex flex-col">
      <label htmlFor={id} className="text-[13px] text-soft first-letter:uppercase">
        {label}
      </label>
      <input
        id={id}
        value={text}
        list={list ? `${id}-list` : undefined}
        autoComplete="off"
        spellCheck={false}
        placeholder={hint}
        aria-invalid={wrong !== null}
        aria-describedby={wrong ? `${id}-wrong` : undefined}
        className={`num min-h-11 w-full rounded border bg-plate px-2 lg:min-h-8 ${wrong ? "border-2 border-over" : "border-rule"}`}
        onFocus={() => {
          editing.current = true;
        }}
        onChange={(e) => {
          editing.current = true;
          typed.current = e.target.value;
          setText(e.target.value);
          setWrong(null);
          onWonder(e.target.value.trim() === value.trim() ? null : e.target.value);
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") keep();
          if (e.key === "Escape") {
            e.stopPropagation();
            typed.current = value;
            setText(value);
            setWrong(null);
            onWonder(null);
          }
        }}
        onBlur={() => {
          editing.current = false;
          keep();
        }}
      />
      {list && (
        <datalist id={`${id}-list`}>
          {list.map((each) => (
            <option key={each} value={each} />
          ))}
        </datalist>
      )}
      {wrong && (
        <p id={`${id}-wrong`} role="alert" className="mt-0.5 text-[13px] text-over">
          {wrong}
        </p>
      )}
    </div>
  );
}
