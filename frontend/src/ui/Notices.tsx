import {
  createContext,
  lazy,
  type ReactNode,
  Suspense,
  useCallback,
  useContext,
  useState,
} from "react";

export interface Notice {
  id: number;
  says: string;
  bad: boolean;
  act?: { label: string; run: () => void };
}

type Say = (says: string, more?: { bad?: boolean; act?: Notice["act"] }) => void;
const Context = createContext<Say>(() => {});
/** Fetched right after the first page is up: nothing is said in passing before. */
const Toasts = lazy(() => import("./Toasts"));
let last = 0;

/** Say something in passing, with at most one thing to do about it: `say("Kept", { act })`. */
export const useSay = () => useContext(Context);

export function NoticeProvider({ children }: { children: ReactNode }) {
  const [notices, setNotices] = useState<Notice[]>([]);
  const drop = useCallback((id: number) => setNotices((now) => now.filter((n) => n.id !== id)), []);
  const say = useCallback<Say>((says, more) => {
    last += 1;
    const notice = { id: last, says, bad: more?.bad ?? false, act: more?.act };
    setNotices((now) => [...now.slice(-1), notice]);
  }, []);
  return (
    <Context.Provider value={say}>
      {children}
      <Suspense>
        <Toasts notices={notices} drop={drop} />
      </Suspense>
    </Context.Provider>
  );
}
