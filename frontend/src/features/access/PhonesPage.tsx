import { ArrowLeft } from "lucide-react";
import { Switch } from "radix-ui";
import { useState } from "react";
import { Link } from "react-router";
import { sentence } from "../../api/client";
import { useAllWaiting } from "../../api/outbox";
import { day } from "../../format/day";
import { Ask } from "../../ui/Ask";
import { Button } from "../../ui/Button";
import { Heading } from "../../ui/Heading";
import { useTitle } from "../../ui/useTitle";
import { type Network, useAccess, useLeave, useNetwork, useSwitch } from "./api";
import { Devices } from "./Devices";
import { Passphrase } from "./Passphrase";
import { Scan } from "./Scan";

/** Which phones and laptops may read and write the jobs, and the door they come in by. */
export function PhonesPage() {
  const access = useAccess();
  const here = access.data?.door === "here";
  const network = useNetwork(here);
  useTitle("Phones");
  const error = access.error ?? network.error;
  return (
    <main className="mx-auto max-w-4xl px-4 py-4">
      <Link
        to="/settings"
        className="inline-flex min-h-11 items-center gap-1 text-slate lg:min-h-8"
      >
        <ArrowLeft size={15} aria-hidden /> Settings
      </Link>
      <Heading className="mb-1 text-xl font-bold">Phones</Heading>
      {error && (
        <p role="alert" className="text-over">
          {sentence(error)}
        </p>
      )}
      {access.data && !here && <OwnPairing />}
      {network.data && <Door network={network.data} />}
    </main>
  );
}

/** What a paired device sees: itself. */
function OwnPairing() {
  const access = useAccess().data;
  const leave = useLeave();
  const waiting = useAllWaiting().length;
  const [asking, setAsking] = useState(false);
  return (
    <section aria-label="This device" className="space-y-3">
      <p>
        This is <b>{access?.device}</b>, and what is read with it is read by <b>{access?.person}</b>
        . It stays paired until {day(access?.ends_at)}. Others are paired, named and thrown out at
        the machine on which the program runs.
      </p>
      <Button
        onClick={() => (waiting > 0 ? setAsking(true) : leave.mutate())}
        disabled={leave.isPending}
      >
        Unpair this device
      </Button>
      <Ask
        open={asking}
        onClose={() => setAsking(false)}
        title="Unpair this device?"
        says={`It then keeps nothing of the jobs. ${waiting} ${waiting === 1 ? "entry has" : "entries have"} not been sent yet, and would be lost.`}
        act="Unpair"
        onAct={() => leave.mutate()}
      />
    </section>
  );
}

function Door({ network }: { network: Network }) {
  const turn = useSwitch();
  if (!network.possible) return <p>This program was started without a way to the local network.</p>;
  return (
    <div className="space-y-5">
      <section aria-label="The local network">
        <div className="flex min-h-11 items-center gap-3">
          <Switch.Root
            id="door"
            checked={network.open}
            disabled={turn.isPending || (!network.open && !network.passphrase)}
            onCheckedChange={(open) => turn.mutate(open)}
            className="h-8 w-14 shrink-0 rounded-full border-2 border-ink bg-plate p-0.5 data-[state=checked]:bg-ink disabled:opacity-45"
          >
            <Switch.Thumb className="block size-6 rounded-full bg-ink transition-transform data-[state=checked]:translate-x-6 data-[state=checked]:bg-canvas" />
          </Switch.Root>
          <label htmlFor="door">
            <b>Allow phones on the local network</b>
            <span className="block text-soft">
              {network.open
                ? "Paired devices on this network can read and write. It closes when the program stops."
                : "Off: jobs open on this computer only."}
            </span>
          </label>
        </div>
        {!network.passphrase && (
          <p className="mt-2">First it needs a passphrase, for phones that cannot scan.</p>
        )}
      </section>
      {network.open && <Scan network={network} />}
      <Passphrase network={network} />
      <Devices devices={network.devices} />
    </div>
  );
}
