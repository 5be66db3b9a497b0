import { ToggleGroup } from "radix-ui";

interface Props {
  label: string;
  value: string;
  choices: { id: string; name: string }[];
  onPick: (id: string) => void;
  /** Side by side in one frame, or each in a frame of its own where there may be many. */
  joined?: boolean;
}

/** One of a few, all in sight; arrow keys move among them. `<OneOf label="Stage" value="a" … />` */
export function OneOf({ label, value, choices, onPick, joined = false }: Props) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(id) => id && onPick(id)}
      className={
        joined
          ? "flex overflow-hidden rounded border border-rule lg:flex-col"
          : "flex flex-wrap gap-1.5"
      }
    >
      {choices.map(({ id, name }) => (
        <ToggleGroup.Item
          key={id}
          value={id}
          className={`min-h-11 px-3 lg:min-h-8 ${
            joined
              ? "border-r border-rule bg-plate last:border-r-0 hover:bg-tint data-[state=on]:bg-ink data-[state=on]:font-bold data-[state=on]:text-canvas lg:border-r-0 lg:text-left"
              : "rounded border border-line hover:bg-tint data-[state=on]:border-ink data-[state=on]:bg-plate data-[state=on]:font-bold"
          }`}
        >
          {name}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
