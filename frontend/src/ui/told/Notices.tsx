import { X } from "lucide-react";
import { createContext, type ReactNode, useCallback, useContext, useMemo, useState } from "react";

interface Notice {
  id: number;
  says: string;
  bad: boolean;
  act?: { label: string; run: () => void };
}

type Say = (says: string, more?: { bad?: boolean; act?: Notice["act"] }) => void;
const Context = createContext<Say>(() => {});

/** Say something in passing, with at most one thing to do about it: `say("Kept", { act })`. */
export const useSay = () => useContext(Context);

export function NoticeProvider({ children }: { children: ReactNode }) {
  const [notices, setNotices] = useState<Notice[]>([]);
  const drop = useCallback((id: number) => setNotices((now) => now.filter((n) => n.id !== id)), []);
  const say = useCallback<Say>(
    (says, more) => {
      const id = Date.now() + Math.random();
      setNotices((now) => [
        ...now.slice(-1),
        { id, says, bad: more?.bad ?? false, act: more?.act },
      ]);
      setTimeout(() => drop(id), more?.act ? 9000 : 5000);
    },
    [drop],
  );
  const shown = useMemo(
    () =>
      notices.map((n) => (
        <li
          key={n.id}
          className={`flex items-center gap-3 rounded-md border px-3 py-2 shadow-md ${
            n.bad ? "border-over bg-over-fill text-ink" : "border-rule bg-plate"
          }`}
        >
          <span>{n.says}</span>
          {n.act && (
            <button
              type="button"
              className="pointer-events-auto min-h-9 rounded border border-rule px-3 font-bold"
              onClick={() => {
                n.act?.run();
                drop(n.id);
              }}
            >
              {n.act.label}
            </button>
          )}
          <button
            type="button"
            aria-label="Close this notice"
            className="pointer-events-auto -my-2 -mr-2 flex size-11 items-center justify-center"
            onClick={() => drop(n.id)}
          >
            <X size={16} aria-hidden />
          </button>
        </li>
      )),
    [notices, drop],
  );
  return (
    <Context.Provider value={say}>
      {children}
      {/* Not a layer of its own, as Radix's toast is: Escape belongs to the dialog that is open. But for its
          buttons it lets through what is pressed: nothing below waits until it goes away. */}
      <section
        aria-label="Notices"
        aria-live="polite"
        className="no-print pointer-events-none fixed inset-x-3 top-2 z-50"
      >
        <ul className="flex flex-col items-center gap-2">{shown}</ul>
      </section>
    </Context.Provider>
  );
}
