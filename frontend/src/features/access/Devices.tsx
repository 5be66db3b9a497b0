import { useState } from "react";
import { day } from "../../format/day";
import { Ask } from "../../ui/Ask";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/TextField";
import { type Device, useRename, useThrowOut } from "./api";

/** The devices that are paired: what they are called, whose they are; and out with those that are not. */
export function Devices({ devices }: { devices: Device[] }) {
  return (
    <section aria-label="Paired devices">
      <h2 className="font-bold">Paired</h2>
      {devices.length === 0 && <p className="text-soft">No device yet.</p>}
      <ul className="divide-y divide-line">
        {devices.map((device) => (
          <Row key={device.id} device={device} />
        ))}
      </ul>
    </section>
  );
}

function Row({ device }: { device: Device }) {
  const rename = useRename();
  const out = useThrowOut();
  const [asking, setAsking] = useState(false);
  const [naming, setNaming] = useState(false);
  const [name, setName] = useState(device.name);
  const [person, setPerson] = useState(device.person);
  const keep = async () => {
    if (await rename.mutateAsync({ id: device.id, name, person }).catch(() => null))
      setNaming(false);
  };
  return (
    <li className="flex flex-wrap items-center gap-x-3 gap-y-1 py-2">
      {naming ? (
        <form
          className="flex flex-1 flex-wrap items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            keep();
          }}
        >
          <TextField label="What it is called" value={name} onChange={setName} autoFocus />
          <TextField label="Who measures with it" value={person} onChange={setPerson} />
          <Button type="submit" disabled={rename.isPending}>
            Save
          </Button>
        </form>
      ) : (
        <div className="min-w-0 flex-1">
          <b className="break-words">{device.name}</b>
          <span className="block text-[13px] text-soft">
            {device.person}; last here {day(device.seen_at)}, paired until {day(device.ends_at)}
          </span>
        </div>
      )}
      {!naming && <Button onClick={() => setNaming(true)}>Rename</Button>}
      <Button onClick={() => setAsking(true)}>Remove</Button>
      <Ask
        open={asking}
        onClose={() => setAsking(false)}
        title={`Remove ${device.name}?`}
        says="It loses access now and keeps nothing of the jobs. What it has sent stays here; what it has not sent yet is lost."
        act="Remove"
        onAct={() => out.mutate(device.id)}
      />
    </li>
  );
}
