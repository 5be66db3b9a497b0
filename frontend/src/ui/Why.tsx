import { Popover } from "radix-ui";
import {
  createContext,
  type KeyboardEvent,
  type ReactNode,
  useContext,
  useEffect,
  useId,
  useMemo,
  useRef,
  useState,
} from "react";
import type { Schema } from "../api/client";
import { Working } from "./told/Working";

type Lines = Schema["WorkingLine"][];
/** A working that is asked for; `by` tells the number that asks. */
interface Asked {
  by: string;
  title: string;
  lines: Lines;
}
interface Whys {
  ask: (from: HTMLElement, asked: Asked) => void;
  /** What that number says of itself now. */
  follow: (asked: Asked) => void;
  /** That number is no longer on the page. */
  gone: (by: string) => void;
}
const Context = createContext<Whys>({ ask: () => {}, follow: () => {}, gone: () => {} });

/** Holds the one short working that is open; any number of the page can ask for it. */
export function WhyProvider({ children }: { children: ReactNode }) {
  const anchor = useRef<HTMLElement>(null);
  const open = useRef<string>(null);
  const [asked, setAsked] = useState<Asked | null>(null);
  const whys = useMemo<Whys>(() => {
    const show = (now: Asked | null) => {
      open.current = now?.by ?? null;
      setAsked(now);
    };
    return {
      ask: (from, now) => {
        anchor.current = from;
        show(now);
      },
      follow: (now) => {
        if (open.current === now.by && now.lines.length > 0) show(now);
      },
      gone: (by) => {
        if (open.current === by) show(null);
      },
    };
  }, []);
  const close = () => asked && whys.gone(asked.by);
  return (
    <Context.Provider value={whys}>
      {children}
      <Popover.Root open={asked !== null} onOpenChange={(opens) => !opens && close()}>
        {/* biome-ignore lint/suspicious/noExplicitAny: Radix types its virtual anchor as never empty */}
        <Popover.Anchor virtualRef={anchor as any} />
        <Popover.Portal>
          <Popover.Content
            aria-label={asked ? `Working: ${asked.title}` : undefined}
            collisionPadding={8}
            sideOffset={4}
            onCloseAutoFocus={(e) => {
              e.preventDefault();
              anchor.current?.focus();
            }}
            className="z-40 max-h-[70vh] w-[min(440px,94vw)] overflow-auto rounded-md border border-rule bg-canvas p-3 shadow-lg"
          >
            <h3 className="mb-1 font-bold">{asked?.title}</h3>
            {asked && <Working lines={asked.lines} />}
            <Popover.Arrow className="fill-rule" />
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </Context.Provider>
  );
}

interface Props {
  title: string;
  lines: Lines;
  children: ReactNode;
  className?: string;
  /** Whether Tab stops here; the many numbers of a table are reached by its arrow keys. */
  stop?: boolean;
  /** Its place in a table with arrow keys, and what they do there. */
  at?: string;
  onKeyDown?: (event: KeyboardEvent<HTMLElement>) => void;
}

/** A number that explains itself when it is pressed; what is open follows it as it changes. */
export function Why({
  title,
  lines,
  children,
  className = "",
  stop = false,
  at,
  onKeyDown,
}: Props) {
  const { ask, follow, gone } = useContext(Context);
  const by = useId();
  useEffect(() => follow({ by, title, lines }));
  useEffect(() => () => gone(by), [gone, by]);
  if (lines.length === 0) return <>{children}</>;
  return (
    <button
      type="button"
      tabIndex={stop ? 0 : -1}
      aria-haspopup="dialog"
      data-at={at}
      onKeyDown={onKeyDown}
      className={`cursor-help ${className}`}
      onClick={(e) => ask(e.currentTarget, { by, title, lines })}
    >
      {children}
    </button>
  );
}

/** The lines of a working that are about one of these numbers. */
export function about(lines: Lines, ...names: string[]): Lines {
  return lines.filter((line) => names.includes(line.about));
}
