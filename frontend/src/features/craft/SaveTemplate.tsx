import { useState } from "react";
import { Button } from "../../ui/Button";
import { OverSheet } from "../../ui/Dialog";
import { TextField } from "../../ui/TextField";
import { useSay } from "../../ui/told/Notices";
import { WrongElsewhere } from "../../ui/told/WrongElsewhere";
import { wrongWith } from "../../ui/told/wrong";
import { type Craft, useSaveTemplate } from "./api";

/** The craft saved under a name, for other jobs to begin from: same boat, other customer. */
export function SaveTemplate({ craft, onClose }: { craft: Craft; onClose: () => void }) {
  const [name, setName] = useState(craft.craft_name || craft.title);
  const save = useSaveTemplate(craft.job);
  const say = useSay();
  return (
    <OverSheet
      open
      onClose={onClose}
      title="Save as a template"
      says="The wiring as it is shown, its scenarios and its limits. Nothing of the customer, the complaint or any reading goes with it. A template of the same name gives way."
    >
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate(
            { name, stage: craft.stage },
            {
              onSuccess: (made) => {
                say(`Saved. A new job can begin from ${made.name}.`);
                onClose();
              },
            },
          );
        }}
      >
        <TextField
          label="Name"
          value={name}
          onChange={setName}
          wrong={wrongWith(save.error, "name")}
          autoFocus
        />
        <WrongElsewhere error={save.error} fields={["name"]} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button tone="strong" type="submit" disabled={save.isPending || !name.trim()}>
            Save
          </Button>
        </div>
      </form>
    </OverSheet>
  );
}
