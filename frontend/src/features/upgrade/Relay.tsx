import { RelaySocket } from "../../ui/told/RelaySocket";
import type { Candidate } from "./api";

type RelayFacts = NonNullable<Candidate["relay"]>;
/** The relay: what it is, its socket, and what each hole should read with it out and in. */
export function Relay({ relay }: { relay: RelayFacts }) {
  return (
    <section aria-label="Relay">
      <h2 className="font-bold">Relay</h2>
      <ul className="mb-2">
        {relay.says.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
      <RelaySocket socket={relay.socket} />
    </section>
  );
}
