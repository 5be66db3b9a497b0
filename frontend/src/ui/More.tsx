import { Ellipsis } from "lucide-react";
import { Popover } from "radix-ui";
import { type ReactNode, useState } from "react";
import { Button } from "./Button";

/** What does not fit a bar one row high, under each other; what leads elsewhere, or is marked so, closes it again. */
export function More({ children }: { children: ReactNode }) {
  const [open, setOpen] = useState(false);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button tone="quiet" aria-label="More">
          <Ellipsis size={20} aria-hidden />
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          collisionPadding={8}
          aria-label="More"
          className="no-print z-30 flex min-w-48 flex-col items-start gap-1 rounded-md border border-rule bg-canvas p-2 shadow-lg [&_nav]:flex-col [&_nav]:items-start"
          onClick={(event) => {
            if ((event.target as HTMLElement).closest("a, [data-closes]")) setOpen(false);
          }}
        >
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
