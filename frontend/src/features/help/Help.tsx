import { useState } from "react";
import Markdown from "react-markdown";
import { useLocation } from "react-router";
import remarkGfm from "remark-gfm";
import { Button } from "../../ui/Button";
import { OverSheet } from "../../ui/Dialog";
import { helping } from "../../ui/tools";
import { found, GUIDE, type Part, partAbout } from "./guide";

/** The guide over a page: the part that is about it, and every other by its name or by any words. */
export function Help() {
  const asked = helping.use();
  const { pathname } = useLocation();
  const [words, setWords] = useState("");
  const title = asked || partAbout(pathname);
  const part = GUIDE.find((p) => p.title === title) ?? GUIDE[0];
  const open = (next: string) => {
    setWords("");
    helping.set(next);
  };
  return (
    <OverSheet open={asked !== null} onClose={() => helping.set(null)} title="Help" wide>
      <div className="mb-3 flex gap-2">
        <input
          type="search"
          aria-label="Search the guide"
          placeholder="Search the guide"
          value={words}
          onChange={(e) => setWords(e.target.value)}
          className="min-h-11 min-w-0 flex-1 rounded border border-rule bg-plate px-2"
        />
        <Button className="lg:min-h-11" onClick={() => open("Keys")}>
          Keys
        </Button>
      </div>
      {words.trim() ? (
        <Found words={words} open={open} />
      ) : (
        part && (
          <div className="gap-x-6 sm:grid sm:grid-cols-[12rem_minmax(0,1fr)]">
            <Contents at={part.title} open={open} />
            <Shown part={part} open={open} />
          </div>
        )
      )}
    </OverSheet>
  );
}

function Found({ words, open }: { words: string; open: (title: string) => void }) {
  const hits = found(words);
  return (
    <>
      <p role="status" className="text-[13px] text-soft">
        {hits.length === 0 ? "Nothing in the guide has these words." : `${hits.length} found`}
      </p>
      <ul>
        {hits.map((p) => (
          <li key={p.title} className="border-t border-line">
            <button
              type="button"
              onClick={() => open(p.title)}
              className="min-h-11 w-full py-1 text-left hover:bg-tint"
            >
              <b className="text-slate underline">{p.title}</b>
              <span className="block text-[13px] text-soft">{lineWith(p, words)}</span>
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}

/** The first line of a part with one of the words in it. */
function lineWith(part: Part, words: string): string {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const lines = part.text.split("\n").filter((l) => l.trim());
  const line = lines.find((l) => wanted.some((w) => l.toLowerCase().includes(w))) ?? lines[0];
  return (line ?? "").replace(/[*`[\]]/g, "").slice(0, 160);
}

function Contents({ at, open }: { at: string; open: (title: string) => void }) {
  return (
    <nav aria-label="Parts of the guide">
      <details className="sm:hidden">
        <summary className="min-h-11 py-3 font-bold">All parts</summary>
        <Titles at={at} open={open} />
      </details>
      <div className="hidden sm:block">
        <Titles at={at} open={open} />
      </div>
    </nav>
  );
}

function Titles({ at, open }: { at: string; open: (title: string) => void }) {
  return (
    <ul>
      {GUIDE.map((p) => (
        <li key={p.title}>
          <button
            type="button"
            aria-current={p.title === at ? "page" : undefined}
            onClick={() => open(p.title)}
            className={`min-h-11 w-full rounded px-1.5 text-left hover:bg-tint sm:min-h-7 ${p.level > 2 ? "pl-4" : ""} ${p.title === at ? "bg-tint font-bold" : ""}`}
          >
            {p.title}
          </button>
        </li>
      ))}
    </ul>
  );
}

function Shown({ part, open }: { part: Part; open: (title: string) => void }) {
  return (
    <article aria-label={part.title} className="min-w-0 max-w-prose">
      <h3 className="mb-1 text-lg font-bold">{part.title}</h3>
      <div className="space-y-2 [&_code]:num [&_code]:break-words [&_code]:text-[0.94em] [&_li]:my-1 [&_ul]:list-disc [&_ul]:pl-5">
        <Markdown
          remarkPlugins={[remarkGfm]}
          components={{
            a: ({ href, children }) =>
              href?.endsWith("run-line.md") ? (
                <button
                  type="button"
                  className="text-slate underline"
                  onClick={() => open("The run line")}
                >
                  {children}
                </button>
              ) : (
                <span>{children}</span>
              ),
          }}
        >
          {part.text}
        </Markdown>
      </div>
    </article>
  );
}
