import { Tooltip } from "radix-ui";
import { Button, type ButtonProps } from "./Button";

/** A button whose sign alone may not say enough: `<TipButton tip="Undo (Ctrl Z)" aria-label="Undo">…` */
export function TipButton({ tip, ...rest }: ButtonProps & { tip: string }) {
  return (
    <Tooltip.Provider>
      <Tooltip.Root>
        <Tooltip.Trigger asChild>
          <Button {...rest} />
        </Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content
            sideOffset={4}
            collisionPadding={8}
            className="no-print z-50 max-w-72 rounded border border-rule bg-canvas px-2 py-1 text-[13px] shadow-md"
          >
            {tip}
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </Tooltip.Provider>
  );
}
