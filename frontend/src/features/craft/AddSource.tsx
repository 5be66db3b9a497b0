import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../../ui/Button";
import { Pick, TextField } from "../../ui/TextField";
import { WrongElsewhere } from "../../ui/told/WrongElsewhere";
import { wrongWith } from "../../ui/told/wrong";
import { type Craft, useDraw } from "./api";

const KINDS = [
  ["generator", "generator on the engine"],
  ["charger", "charger"],
  ["panel", "solar panel"],
] as const;

/** A second source, which charges the battery: the way between them becomes a run of its own. */
export function AddSource({ craft }: { craft: Craft }) {
  const [kind, setKind] = useState<(typeof KINDS)[number][0]>("generator");
  const [name, setName] = useState("");
  const [volts, setVolts] = useState("");
  const draw = useDraw(craft.job);
  const navigate = useNavigate();
  return (
    <details className="rounded border border-line px-2">
      <summary className="min-h-11 py-3 text-soft lg:min-h-8 lg:py-1.5">
        Or add a charging path: alternator, charger or solar panel
      </summary>
      <form
        className="flex flex-wrap items-end gap-2 pb-2"
        onSubmit={(e) => {
          e.preventDefault();
          draw.mutate(
            { to: "sources", at: craft, body: { kind, name, volts } },
            {
              onSuccess: (made) =>
                navigate(`/jobs/${craft.job}/walk?run=${encodeURIComponent(made.made ?? "")}`),
            },
          );
        }}
      >
        <Pick label="What charges" value={kind} choices={KINDS} onPick={setKind} />
        <TextField
          label="What it is called"
          hint="Generator"
          value={name}
          onChange={setName}
          wrong={wrongWith(draw.error, "name")}
        />
        <TextField
          className="w-40"
          label="Regulated voltage, if known"
          numeric
          value={volts}
          onChange={setVolts}
          wrong={wrongWith(draw.error, "volts")}
        />
        <Button type="submit" disabled={!name.trim() || draw.isPending}>
          Add and measure it
        </Button>
        <WrongElsewhere error={draw.error} fields={["name", "volts"]} />
      </form>
    </details>
  );
}
