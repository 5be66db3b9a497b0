import { useState } from "react";
import { Ask } from "../../ui/Ask";
import { Button } from "../../ui/Button";
import { Pick } from "../../ui/TextField";
import { useDropTemplate, useTemplates } from "./api";

interface Props {
  value: string;
  onPick: (template: string) => void;
}

/** What a new job begins from: nothing, or a craft that was saved. Says nothing while none was. */
export function Begin({ value, onPick }: Props) {
  const templates = useTemplates().data?.templates ?? [];
  const drop = useDropTemplate();
  const [asking, setAsking] = useState(false);
  const chosen = templates.find((t) => t.id === value);
  if (templates.length === 0) return null;
  return (
    <div className="col-span-2 flex items-end gap-2">
      <Pick
        className="flex-1"
        label="Begin from"
        value={chosen ? value : ""}
        choices={[
          ["", "an empty craft"],
          ...templates.map((t): [string, string] => [t.id, t.name]),
        ]}
        onPick={onPick}
      />
      {chosen && <Button onClick={() => setAsking(true)}>Delete it</Button>}
      <Ask
        open={asking}
        onClose={() => setAsking(false)}
        title={`Delete the template ${chosen?.name ?? ""}?`}
        says="Jobs that began from it stay as they are."
        act="Delete"
        onAct={() => drop.mutate(value, { onSuccess: () => onPick("") })}
      />
    </div>
  );
}
