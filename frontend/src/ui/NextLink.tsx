import type { ReactNode } from "react";
import { Link } from "react-router";

const LOOKS =
  "inline-flex min-h-12 w-full items-center justify-center gap-1.5 rounded border px-4 font-bold lg:min-h-9 lg:w-auto";
const STRONG = "border-ink bg-ink text-canvas hover:opacity-90";
const PLAIN = "border-rule bg-plate hover:bg-tint";

interface Props {
  to: string;
  /** Whether it is the one thing to do now. */
  strong?: boolean;
  children: ReactNode;
}

/** The way on to the next act, as wide as the page in the hand. */
export function NextLink({ to, strong = true, children }: Props) {
  return (
    <Link to={to} className={`no-print ${LOOKS} ${strong ? STRONG : PLAIN}`}>
      {children}
    </Link>
  );
}

/** The same for a file to be saved. */
export function NextFile({ to, strong = true, children }: Props) {
  return (
    <a href={to} download className={`no-print ${LOOKS} ${strong ? STRONG : PLAIN}`}>
      {children}
    </a>
  );
}
