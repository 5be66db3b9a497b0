import { ArrowLeft } from "lucide-react";
import { type ReactNode, useEffect } from "react";
import { Link } from "react-router";
import { ThemeButton } from "./ThemeButton";

/** What the browser calls the page; as it was while that is not known yet. */
export function useTitle(title: string | undefined) {
  useEffect(() => {
    if (title) document.title = title;
  }, [title]);
}

interface Bar {
  /** The way back: where it leads, and what is there. */
  back: [to: string, name: string];
  heading?: ReactNode;
  children: ReactNode;
}

interface Props extends Bar {
  /** What the browser calls the page; nothing while it is not known. */
  title: string | undefined;
  /** What else can be gone to or done from here, in the bar. */
  acts?: ReactNode;
  /** Of what the page holds: how wide it may be, how its parts stand. */
  className: string;
}

/** A page under its bar: the way back, what it is called, what else can be done from here. */
export function Page({ title, back: [to, name], heading, acts, className, children }: Props) {
  useTitle(title);
  return (
    <div className="min-h-full">
      <header className="no-print flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line bg-rail px-3 py-2 sm:px-5">
        <Link to={to} className="inline-flex min-h-11 items-center gap-1 text-slate lg:min-h-8">
          <ArrowLeft size={15} aria-hidden /> {name}
        </Link>
        {heading ? (
          <h1 className="min-w-0 flex-1 basis-56 text-lg font-bold">{heading}</h1>
        ) : (
          <span className="flex-1" />
        )}
        {acts}
        <ThemeButton />
      </header>
      <main className={`mx-auto px-3 py-3 sm:px-5 ${className}`}>{children}</main>
    </div>
  );
}

/** The bar of a page for the hand: the way back as a sign, the name of what is looked at. */
export function HandBar({ back: [to, name], heading }: Omit<Bar, "children">) {
  return (
    <header className="flex items-center gap-1 border-b border-line bg-rail px-1 sm:px-4">
      <Link to={to} aria-label={name} className="flex size-11 items-center justify-center">
        <ArrowLeft size={20} aria-hidden />
      </Link>
      <h1 className="min-w-0 flex-1 truncate font-bold">{heading}</h1>
      <ThemeButton />
    </header>
  );
}

const WAY = "inline-flex min-h-11 items-center gap-1 font-bold text-slate underline lg:min-h-8";

/** A way from a page's bar to another page. */
export function BarLink({ to, children }: { to: string; children: ReactNode }) {
  return (
    <Link to={to} className={WAY}>
      {children}
    </Link>
  );
}

/** A file to be saved, offered in a page's bar. */
export function BarFile({ href, children }: { href: string; children: ReactNode }) {
  return (
    <a href={href} download className={WAY}>
      {children}
    </a>
  );
}
