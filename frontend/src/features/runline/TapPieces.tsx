import { Delete } from "lucide-react";
import { useState } from "react";
import { marked } from "../../format/format";
import { Button } from "../../ui/Button";

interface Props {
  value: string;
  onChange: (text: string) => void;
  /** Whether the run has a load already: a line has but one. */
  loaded: boolean;
}

/** What is tapped, and what it writes; figures may follow, and need not. */
const PIECES: [string, string][] = [
  ["Wire", "wire"],
  ["Fuse", "fuse"],
  ["Breaker", "breaker"],
  ["Switch", "panel switch"],
  ["Plug pin", "pin"],
  ["Splice", "splice"],
  ["Ring", "ring on stud"],
  ["Hull or chassis", "body"],
  ["Relay contact", "relay"],
  ["Not known", "?"],
];
const SIZES = ["0.75", "1", "1.5", "2.5", "4", "6", "10", "16", "25", "35"];
const RATINGS = ["3", "5", "7.5", "10", "15", "20", "25", "30", "40", "60"];

/** The line up to its last piece, and that piece. */
function parted(value: string): [string, string] {
  const at = value.lastIndexOf(">");
  return at < 0
    ? ["", value.trim()]
    : [`${value.slice(0, at).trimEnd()} > `, value.slice(at + 1).trim()];
}

/** A run built by tapping its pieces in order, as the current passes; it writes the line below. */
export function TapPieces({ value, onChange, loaded }: Props) {
  const [name, setName] = useState("");
  const [draws, setDraws] = useState("");
  const [metres, setMetres] = useState("");
  const [before, last] = parted(value);
  const put = (text: string) => {
    setMetres("");
    onChange(value.trim() ? `${value.trimEnd()} > ${text}` : text);
  };
  const wire = /^(wire|[\d.,]+ mm²)( |$)/.exec(last);
  const fused = /^(fuse|breaker)( |$)/.exec(last);
  const sized = (size: string) =>
    onChange(before + last.replace(/^(wire|[\d.,]+ mm²)/, `${size} mm²`));
  const long = (text: string) => {
    setMetres(text);
    const plain = last.replace(/ [\d.,]* ?m$/, "");
    onChange(before + (text.trim() ? `${plain} ${text.trim()} m` : plain));
  };
  const load = () => {
    put(`load "${name.trim().replace(/["\\]/g, "")}" ${draws.trim() ? `${draws.trim()} A` : "?"}`);
    setName("");
    setDraws("");
  };
  const chip = "num min-w-11 px-2 font-normal";
  return (
    <details className="rounded border border-line px-2">
      <summary className="min-h-11 py-3 text-soft lg:min-h-8 lg:py-1.5">
        Tap its pieces in order, or type them below
      </summary>
      <div className="space-y-2 pb-2">
        <Kinds
          onPut={put}
          onBack={value.trim() ? () => onChange(before.replace(/\s*>\s*$/, "")) : null}
        />
        {wire && (
          <fieldset
            className="flex flex-wrap items-center gap-1.5"
            aria-label="Its size and length, if known"
          >
            {SIZES.map((size) => (
              <Button
                key={size}
                className={chip}
                aria-pressed={last.startsWith(`${marked(size)} mm²`)}
                onClick={() => sized(marked(size))}
              >
                {marked(size)}
              </Button>
            ))}
            <span className="text-soft">mm²</span>
            <input
              aria-label="Its length in metres, if known"
              inputMode="decimal"
              placeholder="length"
              value={metres}
              onChange={(e) => long(e.target.value)}
              className="num min-h-11 w-24 rounded border border-rule bg-plate px-2 lg:min-h-8"
            />
            <span className="text-soft">m</span>
          </fieldset>
        )}
        {fused && (
          <fieldset
            className="flex flex-wrap items-center gap-1.5"
            aria-label="Its rating, if it can be read"
          >
            {RATINGS.map((rating) => (
              <Button
                key={rating}
                className={chip}
                onClick={() => onChange(`${before}${fused[1]} ${marked(rating)}`)}
              >
                {marked(rating)}
              </Button>
            ))}
            <span className="text-soft">A</span>
          </fieldset>
        )}
        {!loaded && (
          <form
            className="flex flex-wrap items-center gap-1.5"
            onSubmit={(e) => {
              e.preventDefault();
              if (name.trim()) load();
            }}
          >
            <input
              aria-label="What the load is called"
              placeholder="the load's name"
              value={name}
              maxLength={100}
              onChange={(e) => setName(e.target.value)}
              className="min-h-11 w-44 rounded border border-rule bg-plate px-2 lg:min-h-8"
            />
            <input
              aria-label="What it draws in amperes, if known"
              inputMode="decimal"
              placeholder="A, if known"
              value={draws}
              onChange={(e) => setDraws(e.target.value)}
              className="num min-h-11 w-28 rounded border border-rule bg-plate px-2 lg:min-h-8"
            />
            <Button type="submit" disabled={!name.trim()}>
              The load
            </Button>
          </form>
        )}
      </div>
    </details>
  );
}

/** The kinds of pieces, one touch each; the last one taken off. */
function Kinds({ onPut, onBack }: { onPut: (text: string) => void; onBack: (() => void) | null }) {
  return (
    <div className="flex flex-wrap gap-1.5">
      {PIECES.map(([word, text]) => (
        <Button key={text} onClick={() => onPut(text)}>
          {word}
        </Button>
      ))}
      <Button
        tone="quiet"
        aria-label="Take the last one off"
        disabled={onBack === null}
        onClick={() => onBack?.()}
      >
        <Delete size={18} aria-hidden />
      </Button>
    </div>
  );
}
