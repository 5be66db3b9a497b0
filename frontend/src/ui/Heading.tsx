import { type ReactNode, useEffect, useRef } from "react";
import { useLocation } from "react-router";

/** Whether somebody has skipped to the content of a page that was still opening. */
let skipped = false;

function toContent(): void {
  const content = document.querySelector("main");
  if (!content) return;
  content.tabIndex = -1;
  content.focus({ preventScroll: true });
}

interface Props {
  className?: string;
  children: ReactNode;
}

/**
 * What a page is called. Whoever comes here from another page finds the focus on it, unless something on the page
 * has taken it: a page that is opened afresh leaves it where the browser has it.
 */
export function Heading({ className = "", children }: Props) {
  const heading = useRef<HTMLHeadingElement>(null);
  const { key } = useLocation();
  const come = useRef(key !== "default");
  useEffect(() => {
    const taken = document.activeElement !== null && document.activeElement !== document.body;
    if (skipped && !taken) toContent();
    else if (come.current && !taken) heading.current?.focus({ preventScroll: true });
    skipped = false;
  }, []);
  return (
    <h1 ref={heading} tabIndex={-1} className={`outline-none ${className}`}>
      {children}
    </h1>
  );
}

/** The first thing that Tab reaches: past the bar, to what the page holds. */
export function SkipLink() {
  return (
    <button
      type="button"
      className="sr-only no-print focus:not-sr-only focus:absolute focus:z-50 focus:bg-canvas focus:px-3 focus:py-2 focus:font-bold"
      onClick={() => {
        skipped = document.querySelector("main[aria-busy=true]") !== null;
        toContent();
      }}
    >
      Skip to the content
    </button>
  );
}
