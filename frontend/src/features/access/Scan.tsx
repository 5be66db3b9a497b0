import { QrCode } from "lucide-react";
import { useEffect, useState } from "react";
import { Button } from "../../ui/Button";
import { type Code, type Network, useNewCode } from "./api";

/** A code to scan or to type, good for one phone and some minutes; and where phones find the program. */
export function Scan({ network }: { network: Network }) {
  const make = useNewCode();
  const [ends, setEnds] = useState(0);
  const left = useSecondsTo(ends);
  const [before, setBefore] = useState<string[]>([]);
  const came = ends ? network.devices.find((d) => !before.includes(d.id)) : undefined;
  const code = left > 0 && !came ? make.data : undefined;
  const ask = async () => {
    const made = await make.mutateAsync().catch(() => null);
    if (!made) return;
    setBefore(network.devices.map((d) => d.id));
    setEnds(Date.now() + made.lasts_s * 1000);
  };
  return (
    <section aria-label="Pair a phone" className="flex flex-wrap gap-5">
      <div className="w-64 shrink-0">
        {code ? (
          <Shown code={code} left={left} />
        ) : (
          <div className="flex size-64 flex-col items-center justify-center gap-3 rounded border-2 border-dashed border-rule p-3 text-center">
            {came && (
              <p role="status" className="break-words">
                <b>{came.name}</b> is paired.
              </p>
            )}
            <Button tone="strong" onClick={ask} disabled={make.isPending}>
              <QrCode size={18} aria-hidden /> {ends ? "Pair another" : "Pair a phone"}
            </Button>
          </div>
        )}
      </div>
      <div className="min-w-64 flex-1 space-y-2">
        <p>
          The phone must be on the same network. It scans the code, or opens one of these and types
          it:
        </p>
        <ul>
          {network.urls.map((url) => (
            <li key={url} className="num break-all">
              {url}
            </li>
          ))}
        </ul>
        {network.urls.length === 0 && (
          <p className="text-over">This machine is on no network at the moment.</p>
        )}
        {network.secure ? (
          <div>
            <p>
              What is sent is encrypted. The phone will say that it does not know this certificate:
              no authority vouches for a workshop's own machine. Compare the fingerprint it shows
              (SHA-256), then let it go on:
            </p>
            <p className="num mt-1 text-[13px] break-all">{network.fingerprint}</p>
          </div>
        ) : (
          <p>
            What is sent is not encrypted: use a network you trust. Started with{" "}
            <b className="num">--tls</b> it is.
          </p>
        )}
      </div>
    </section>
  );
}

function Shown({ code, left }: { code: Code; left: number }) {
  return (
    <figure>
      <img
        src={`data:image/svg+xml,${encodeURIComponent(code.picture)}`}
        alt={`A code to scan: ${code.url}`}
        className="size-64 rounded border border-rule bg-white"
      />
      <figcaption className="mt-1 text-center">
        <b className="num text-2xl">{code.code}</b>
        <span className="block text-soft">
          for one phone; {left > 90 ? `${Math.ceil(left / 60)} minutes` : `${left} seconds`} left
        </span>
      </figcaption>
    </figure>
  );
}

/** Whole seconds until a moment of this device's clock; 0 once it is over. */
function useSecondsTo(moment: number): number {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    if (!moment) return;
    setNow(Date.now());
    const timer = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(timer);
  }, [moment]);
  return Math.max(0, Math.ceil((moment - now) / 1000));
}
