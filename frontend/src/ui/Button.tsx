import type { ButtonHTMLAttributes } from "react";

export interface ButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  tone?: "plain" | "strong" | "quiet";
}

const TONES = {
  plain: "border border-rule bg-plate hover:bg-tint",
  strong: "border border-ink bg-ink text-canvas hover:opacity-90",
  quiet: "border border-transparent hover:bg-tint",
};

/** A button, at least 44 px high in the hand. `<Button tone="strong">Repair done</Button>` */
export function Button({ tone = "plain", className = "", ...rest }: ButtonProps) {
  return (
    <button
      type="button"
      className={`inline-flex min-h-11 items-center justify-center gap-1.5 rounded px-3 font-bold disabled:cursor-not-allowed disabled:opacity-45 lg:min-h-8 lg:px-2.5 ${TONES[tone]} ${className}`}
      {...rest}
    />
  );
}
