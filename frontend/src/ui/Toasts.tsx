import { X } from "lucide-react";
import { Toast } from "radix-ui";
import type { Notice } from "./Notices";

const SHOWN_MS = 5000;
const SHOWN_WITH_ACT_MS = 9000;

/** What was said in passing, each for a while: longer where something can be done about it. */
export default function Toasts({
  notices,
  drop,
}: {
  notices: Notice[];
  drop: (id: number) => void;
}) {
  return (
    <Toast.Provider label="Notice" swipeDirection="up">
      {notices.map((n) => (
        <Toast.Root
          key={n.id}
          type={n.bad ? "foreground" : "background"}
          duration={n.act ? SHOWN_WITH_ACT_MS : SHOWN_MS}
          onOpenChange={(open) => !open && drop(n.id)}
          className={`pointer-events-auto flex items-center gap-3 rounded-md border px-3 py-2 shadow-md ${
            n.bad ? "border-over bg-over-fill text-ink" : "border-rule bg-plate"
          }`}
        >
          <Toast.Title>{n.says}</Toast.Title>
          {n.act && (
            <Toast.Action
              altText={n.act.label}
              className="min-h-9 rounded border border-rule px-3 font-bold"
              onClick={n.act.run}
            >
              {n.act.label}
            </Toast.Action>
          )}
          <Toast.Close
            aria-label="Close this notice"
            className="-my-2 -mr-2 flex size-11 items-center justify-center"
          >
            <X size={16} aria-hidden />
          </Toast.Close>
        </Toast.Root>
      ))}
      <Toast.Viewport
        label="Notices ({hotkey})"
        className="no-print pointer-events-none fixed inset-x-3 top-2 z-50 flex flex-col items-center gap-2"
      />
    </Toast.Provider>
  );
}
