import { useState } from "react";
import { sentence } from "../../api/client";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/TextField";
import { type Network, useNewPassphrase } from "./api";

/** The passphrase: four words made up, or one's own. Shown once, when it is made. */
export function Passphrase({ network }: { network: Network }) {
  const make = useNewPassphrase();
  const [own, setOwn] = useState("");
  const change = async (said: string | null) => {
    if (await make.mutateAsync(said).catch(() => null)) setOwn("");
  };
  return (
    <section aria-label="The passphrase" className="space-y-2">
      <h2 className="font-bold">The passphrase</h2>
      {make.data ? (
        <p role="status" className="rounded border-2 border-ink bg-plate p-3">
          <b className="num text-xl">{make.data.passphrase}</b>
          <span className="block text-soft">
            Write it down now: it is shown this once, and not kept in words anywhere. Phones that
            are paired stay paired.
          </span>
        </p>
      ) : (
        <p className="text-soft">
          {network.passphrase
            ? "There is one. It pairs a phone without a code; keep it in the workshop."
            : "There is none yet."}
        </p>
      )}
      <div className="flex flex-wrap items-end gap-2">
        <Button
          tone={network.passphrase ? "plain" : "strong"}
          onClick={() => change(null)}
          disabled={make.isPending}
        >
          {network.passphrase ? "Make up another" : "Make up four words"}
        </Button>
        <form
          className="flex min-w-72 flex-1 items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            if (own.trim()) change(own);
          }}
        >
          <TextField
            className="flex-1"
            label="Or one of your own"
            hint="twelve letters or more"
            value={own}
            onChange={setOwn}
            wrong={make.isError ? sentence(make.error) : null}
          />
          <Button type="submit" disabled={make.isPending || !own.trim()}>
            Set it
          </Button>
        </form>
      </div>
    </section>
  );
}
