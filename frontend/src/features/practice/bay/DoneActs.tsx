import type { Bay } from "../api";

/** What was done so far, the latest first. */
export function DoneActs({ bay }: { bay: Bay }) {
  const acts = [...bay.acts].reverse();
  return (
    <section aria-label="Done so far">
      <h2 className="font-bold">Done so far</h2>
      {acts.length === 0 && <p className="text-soft">Nothing yet.</p>}
      <ol className="max-h-96 overflow-auto">
        {acts.map((a) => (
          <li
            key={a.number}
            className="grid grid-cols-[1fr_auto] gap-x-3 border-t border-line py-1"
          >
            <span className="min-w-0 break-words">{a.says}</span>
            <span className="num text-right font-bold">{a.shown}</span>
          </li>
        ))}
      </ol>
    </section>
  );
}
