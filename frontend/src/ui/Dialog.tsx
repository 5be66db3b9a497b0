import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

/** What had the focus last that is in no sheet: who works with keys goes back there. */
let behind: HTMLElement | null = null;
document.addEventListener("focusin", ({ target }) => {
  if (target instanceof HTMLElement && !target.closest("[role=dialog]")) behind = target;
});

interface Props {
  open: boolean;
  onClose: () => void;
  title: string;
  says?: string;
  wide?: boolean;
  children: ReactNode;
}

/** A sheet laid over the page; Escape or the cross puts it away, and the eye is where it was before. */
export function OverSheet({ open, onClose, title, says, wide, children }: Props) {
  return (
    <Dialog.Root open={open} onOpenChange={(now) => !now && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/45" />
        <Dialog.Content
          {...(says ? {} : { "aria-describedby": undefined })}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            behind?.focus();
          }}
          className={`fixed inset-x-0 bottom-0 z-40 max-h-[92vh] overflow-auto rounded-t-xl border border-rule bg-canvas p-4 sm:inset-x-auto sm:bottom-auto sm:left-1/2 sm:top-[8vh] sm:max-h-[84vh] sm:-translate-x-1/2 sm:rounded-lg ${wide ? "sm:w-[min(1000px,94vw)]" : "sm:w-[620px]"}`}
        >
          <div className="mb-3 flex items-start justify-between gap-4">
            <Dialog.Title className="text-lg font-bold">{title}</Dialog.Title>
            <Dialog.Close aria-label="Close" className="-m-1 p-2">
              <X size={20} aria-hidden />
            </Dialog.Close>
          </div>
          {says && <Dialog.Description className="mb-3 text-soft">{says}</Dialog.Description>}
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
