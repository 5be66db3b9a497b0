import { AlertDialog } from "radix-ui";
import { Button } from "./Button";

interface Props {
  open: boolean;
  onClose: () => void;
  title: string;
  says: string;
  act: string;
  onAct: () => void;
}

/** Asks before something that cannot be taken back; the careful answer has the focus. */
export function Ask({ open, onClose, title, says, act, onAct }: Props) {
  return (
    <AlertDialog.Root open={open} onOpenChange={(now) => !now && onClose()}>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-black/45" />
        <AlertDialog.Content className="fixed inset-x-4 top-[20vh] z-40 mx-auto max-w-md rounded-lg border border-rule bg-canvas p-4">
          <AlertDialog.Title className="text-lg font-bold">{title}</AlertDialog.Title>
          <AlertDialog.Description className="mt-1 mb-4">{says}</AlertDialog.Description>
          <div className="flex flex-wrap justify-end gap-2">
            <AlertDialog.Cancel asChild>
              <Button>Cancel</Button>
            </AlertDialog.Cancel>
            <AlertDialog.Action asChild>
              <Button tone="strong" onClick={onAct}>
                {act}
              </Button>
            </AlertDialog.Action>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
