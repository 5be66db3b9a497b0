import { ArrowLeft } from "lucide-react";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { BarTools } from "./BarTools";
import { Heading } from "./Heading";
import { More } from "./More";
import { useTitle } from "./useTitle";
import { useInHand } from "./useWidth";

interface Bar {
  /** The way back: where it leads, and what is there. */
  back: [to: string, name: string];
  heading?: ReactNode;
  children: ReactNode;
}

interface Props extends Bar {
  /** What the browser calls the page; nothing while it is not known. */
  title: string | undefined;
  /** What stays in the bar in the hand too: undo and redo, the way on. */
  always?: ReactNode;
  /** What else can be gone to or done from here: in the bar, in the hand behind one button. */
  acts?: ReactNode;
  /** Of what the page holds: how wide it may be, how its parts stand. */
  className: string;
}

/** A page under its bar: the way back, what it is called, what else can be done from here. */
export function Page(p: Props) {
  const [to, name] = p.back;
  useTitle(p.title);
  const inHand = useInHand();
  return (
    <div className="min-h-full">
      <header className="flex items-center gap-x-4 border-b border-line bg-rail px-3 py-1.5 sm:px-5 lg:flex-wrap lg:py-2">
        <Link
          to={to}
          className="no-print inline-flex min-h-11 items-center gap-1 text-slate lg:min-h-8"
        >
          <ArrowLeft size={15} aria-hidden /> {name}
        </Link>
        {p.heading ? (
          <Heading className="min-w-0 flex-1 truncate text-lg font-bold lg:basis-56 lg:whitespace-normal">
            {p.heading}
          </Heading>
        ) : (
          <span className="flex-1" />
        )}
        {/* On paper a page has its name, and nothing that could be pressed. */}
        <div className="no-print contents">
          {p.always}
          {inHand && p.acts ? (
            <More>
              {p.acts}
              <BarTools />
            </More>
          ) : (
            <>
              {p.acts}
              <BarTools />
            </>
          )}
        </div>
      </header>
      <main className={`mx-auto px-3 py-3 sm:px-5 ${p.className}`}>{p.children}</main>
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
      <Heading className="min-w-0 flex-1 truncate font-bold">{heading}</Heading>
      <BarTools />
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
