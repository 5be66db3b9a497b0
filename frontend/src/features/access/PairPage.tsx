import { useState } from "react";
import { Refused, sentence } from "../../api/client";
import { whoReads } from "../../api/who";
import { unsentWhenRemoved } from "../../offline/forget";
import { Button } from "../../ui/Button";
import { Heading } from "../../ui/Heading";
import { TextField } from "../../ui/TextField";
import { useTitle } from "../../ui/useTitle";
import { usePair } from "./api";

/** What a scanned address carries behind its #: a pairing code, or nothing. */
function scanned(): string {
  const said = decodeURIComponent(location.hash.slice(1));
  return /^[A-Za-z0-9]{8}$/.test(said) ? said : "";
}

/** A device that the workshop does not know yet says its code, or the passphrase, and what it is called. */
export function PairPage() {
  const [code] = useState(scanned);
  const [said, setSaid] = useState("");
  const [name, setName] = useState("");
  const [person, setPerson] = useState(whoReads);
  const pair = usePair();
  const [unsent] = useState(unsentWhenRemoved);
  useTitle("Pair this phone");
  const wrong = (field: string) =>
    pair.error instanceof Refused && pair.error.errors.some((e) => e.field === field)
      ? sentence(pair.error)
      : null;
  const named = wrong("name") ?? wrong("person");
  const send = async () => {
    // A code has eight signs and no blank; a passphrase has words.
    const typed = code || said;
    const isCode = /^[A-Za-z0-9]{4}-?[A-Za-z0-9]{4}$/.test(typed.trim());
    const opens = isCode ? { code: typed, passphrase: "" } : { code: "", passphrase: typed };
    try {
      await pair.mutateAsync({ ...opens, name, person });
    } catch {
      // It stands below.
    }
  };
  return (
    <main className="mx-auto max-w-md px-4 py-6">
      <p className="text-soft">Spare Margin</p>
      <Heading className="mb-1 text-2xl font-bold">Pair this phone</Heading>
      {unsent !== null && (
        <p role="status" className="dots-close mb-3 rounded p-2">
          This device was removed from the workshop, and nothing of its jobs is kept here.
          {unsent > 0 &&
            ` ${unsent} ${unsent === 1 ? "entry" : "entries"} that had not been sent went with it.`}
        </p>
      )}
      <p className="mb-4">
        This device isn't paired yet. Once paired, it can open and change jobs.
      </p>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          send();
        }}
      >
        {code ? (
          <p className="rounded border border-rule bg-plate p-2">
            Scanned: <b className="num">{`${code.slice(0, 4)}-${code.slice(4)}`}</b>
          </p>
        ) : (
          <TextField
            label="The code on the workshop's screen, or its passphrase"
            hint="K7QW-2M9X"
            value={said}
            onChange={setSaid}
            autoFocus
          />
        )}
        <TextField
          label="What this device is called"
          hint="the phone in the van"
          value={name}
          onChange={setName}
          wrong={wrong("name")}
        />
        <TextField
          label="Who measures with it"
          hint="stands with every reading"
          value={person}
          onChange={setPerson}
          wrong={wrong("person")}
        />
        {pair.isError && !named && (
          <p role="alert" className="text-over">
            {sentence(pair.error)}
          </p>
        )}
        <Button
          type="submit"
          tone="strong"
          className="h-14 w-full text-lg"
          disabled={pair.isPending || !(code || said.trim()) || !name.trim() || !person.trim()}
        >
          Pair
        </Button>
      </form>
    </main>
  );
}
