import { Button } from "../../../ui/Button";
import { TextField } from "../../../ui/TextField";
import { type Grid, isNew } from "./useGrid";

/** How far each panel is that rows name and nothing feeds yet: its feed is then drawn with them. */
export function PanelsAsked({ grid }: { grid: Grid }) {
  if (grid.unfed.length === 0) return null;
  const waiting = grid.keys.filter((key) => isNew(key) && grid.typed[key]);
  return (
    <form
      className="dots-close flex flex-wrap items-end gap-3 rounded p-2"
      onSubmit={(e) => {
        e.preventDefault();
        void grid.send(waiting);
      }}
    >
      {grid.unfed.map((name) => (
        <TextField
          key={name}
          label={`Nothing feeds ${name} yet. How far is it from the source?`}
          hint="2.5 m"
          numeric
          value={grid.panels[name] ?? ""}
          onChange={(far) => grid.setPanels((was) => ({ ...was, [name]: far }))}
        />
      ))}
      <Button type="submit" disabled={grid.pending}>
        Draw its feed and these runs
      </Button>
    </form>
  );
}
