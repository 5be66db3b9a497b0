import { Button } from "../../../ui/Button";
import { OneOf } from "../../../ui/OneOf";
import type { Bay, useAct } from "../api";

const STATES = [
  { id: "running", name: "On" },
  { id: "off", name: "Off" },
  { id: "unplugged", name: "Unplugged" },
];
const WAIT_MIN = 8;

/** What can be switched, unplugged, started, disconnected, and left on. */
export function Switches({ bay, act }: { bay: Bay; act: ReturnType<typeof useAct> }) {
  const off = bay.ended;
  return (
    <section aria-label="Switches">
      <h2 className="font-bold">Switches and plugs</h2>
      <ul>
        {bay.loads.map((load) => (
          <li
            key={load.id}
            className="flex flex-wrap items-center gap-x-3 border-t border-line py-1"
          >
            <span className="min-w-0 flex-1 basis-40 break-words">{load.name}</span>
            <OneOf
              label={load.name}
              value={load.looks === "off" || load.looks === "unplugged" ? load.looks : "running"}
              choices={STATES}
              onPick={(state) =>
                !off &&
                act.mutate({
                  kind: "command",
                  element: load.id,
                  state: state as "running" | "off" | "unplugged",
                })
              }
            />
          </li>
        ))}
        {bay.contacts.map((c) => (
          <li key={c.id} className="flex flex-wrap items-center gap-x-3 border-t border-line py-1">
            <span className="min-w-0 flex-1 basis-40 break-words">{c.name}</span>
            <OneOf
              label={c.name}
              value={c.state}
              choices={[
                { id: "closed", name: "Closed" },
                { id: "open", name: "Open" },
              ]}
              onPick={(state) =>
                !off &&
                act.mutate({ kind: "contact", element: c.id, state: state as "open" | "closed" })
              }
            />
          </li>
        ))}
      </ul>
      <div className="mt-2 flex flex-wrap gap-2">
        {bay.has_engine && (
          <Button
            disabled={off}
            onClick={() => act.mutate({ kind: "engine", state: bay.engine ? "off" : "on" })}
          >
            {bay.engine ? "Stop the engine" : "Start the engine"}
          </Button>
        )}
        <Button
          disabled={off}
          onClick={() => act.mutate({ kind: "power", state: bay.power ? "off" : "on" })}
        >
          {bay.power ? "Disconnect the battery" : "Connect the battery"}
        </Button>
        <Button disabled={off} onClick={() => act.mutate({ kind: "wait", minutes: WAIT_MIN })}>
          Leave it on for {WAIT_MIN} min
        </Button>
        {bay.joined && (
          <Button disabled={off} onClick={() => act.mutate({ kind: "unjoin" })}>
            Take the spare wire off
          </Button>
        )}
      </div>
    </section>
  );
}
