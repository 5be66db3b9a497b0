import { useId } from "react";

interface Props {
  label: string;
  value: string;
  onChange: (value: string) => void;
  wrong?: string | null;
  hint?: string;
  long?: boolean;
  autoFocus?: boolean;
  className?: string;
  numeric?: boolean;
  /** What is offered while it is typed. */
  list?: string[];
}

/** A labelled line (or, with `long`, a few lines) of text in a form that is kept as a whole. */
export function TextField({
  label,
  value,
  onChange,
  wrong,
  hint,
  long,
  autoFocus,
  className = "",
  numeric,
  list,
}: Props) {
  const id = useId();
  const shared = {
    id,
    value,
    placeholder: hint,
    "aria-invalid": Boolean(wrong),
    "aria-describedby": wrong ? `${id}-wrong` : undefined,
    className: `w-full rounded border bg-plate px-2 ${numeric ? "num" : ""} ${wrong ? "border-2 border-over" : "border-rule"}`,
    autoComplete: "off",
  };
  return (
    <div className={`flex flex-col ${className}`}>
      <label htmlFor={id} className="text-[13px] text-soft first-letter:uppercase">
        {label}
      </label>
      {long ? (
        <textarea
          {...shared}
          rows={2}
          className={`${shared.className} py-1.5`}
          onChange={(e) => onChange(e.target.value)}
        />
      ) : (
        <input
          {...shared}
          // biome-ignore lint/a11y/noAutofocus: the first field of a form just opened
          autoFocus={autoFocus}
          className={`${shared.className} min-h-11 lg:min-h-8`}
          list={list ? `${id}-list` : undefined}
          onChange={(e) => onChange(e.target.value)}
        />
      )}
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

interface PickProps<T extends string> {
  label: string;
  value: T;
  choices: readonly (readonly [T, string])[];
  onPick: (value: T) => void;
  className?: string;
}

/** One of a few, in a form; a plain select. */
export function Pick<T extends string>({
  label,
  value,
  choices,
  onPick,
  className = "",
}: PickProps<T>) {
  const id = useId();
  return (
    <div className={`flex flex-col ${className}`}>
      <label htmlFor={id} className="text-[13px] text-soft first-letter:uppercase">
        {label}
      </label>
      <select
        id={id}
        value={value}
        onChange={(e) => onPick(e.target.value as T)}
        className="min-h-11 max-w-full min-w-0 rounded border border-rule bg-plate px-1.5 lg:min-h-8"
      >
        {choices.map(([key, name]) => (
          <option key={key} value={key}>
            {name}
          </option>
        ))}
      </select>
    </div>
  );
}
