import { useState } from "react";
import { sayWhoReads } from "../../api/who";
import { Button } from "../../ui/Button";
import { Heading } from "../../ui/Heading";
import { TextField } from "../../ui/TextField";
import { Practising } from "./Practising";

/** Progress is kept by name: the one that measures with this device. */
export function AskName({ onNamed }: { onNamed: () => void }) {
  const [name, setName] = useState("");
  return (
    <Practising title="Practise" back={["/", "Jobs"]} className="max-w-3xl">
      <form
        className="mx-auto max-w-md space-y-3 py-6"
        onSubmit={(e) => {
          e.preventDefault();
          if (!name.trim()) return;
          sayWhoReads(name);
          onNamed();
        }}
      >
        <Heading className="text-xl font-bold">Practise</Heading>
        <TextField label="Your name" value={name} onChange={setName} autoFocus />
        <p className="text-soft">
          Your progress is kept under it. The same name stands with the readings you take in real
          jobs.
        </p>
        <Button type="submit" tone="strong" disabled={!name.trim()}>
          Go on
        </Button>
      </form>
    </Practising>
  );
}
