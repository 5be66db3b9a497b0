import { useState } from "react";
import { sentence } from "../../../api/client";
import { backWord } from "../../../format/format";
import { Button } from "../../../ui/Button";
import { OneOf } from "../../../ui/OneOf";
import { TextField } from "../../../ui/TextField";
import { useStandIn, type Walk } from "../api";
import { useWalkActs } from "../useWalkActs";

type Place = "connector" | "return_moved" | "feed_moved";
const EMPTY = { amps: "", hung_source: "", hung_load: "", source: "", volts: "" };

/** A known load in place of the unplugged one: which suits, and what was read across it. */
export function StandIn({ walk }: { walk: Walk }) {
  const [open, setOpen] = useState(false);
  const asked = useStandIn(walk, open);
  const { standIn } = useWalkActs(walk);
  const [form, setForm] = useState(EMPTY);
  const [place, setPlace] = useState<Place>("connector");
  const [wrong, setWrong] = useState<string | null>(null);
  const field = (key: keyof typeof EMPTY, label: string) => (
    <TextField
      label={label}
      numeric
      value={form[key]}
      onChange={(value) => setForm((now) => ({ ...now, [key]: value }))}
    />
  );
  const keep = async () => {
    const trouble = await standIn({ ...form, place });
    setWrong(trouble);
    if (trouble === null) setForm((now) => ({ ...now, volts: "", source: "" }));
  };
  return (
    <details
      className="mt-3 rounded-lg border border-rule bg-plate px-3"
      onToggle={(e) => setOpen(e.currentTarget.open)}
    >
      <summary className="min-h-11 py-3 font-bold">Use a test load</summary>
      {asked.isError && (
        <p role="alert" className="text-over">
          {sentence(asked.error)}
        </p>
      )}
      {asked.data && (
        <div className="space-y-2 pb-3" data-testid="stand-in">
          <p className="font-bold">{asked.data.says}</p>
          <p className="text-[14px] text-soft">{asked.data.how}</p>
          <p>{asked.data.next}</p>
          <div className="flex flex-wrap gap-1.5">
            {asked.data.bulbs.map((bulb) => (
              <Button
                key={bulb.says}
                className="font-normal"
                onClick={() => setForm((now) => ({ ...now, amps: bulb.amps }))}
              >
                {bulb.says}
                {bulb.enough && <span className="text-slate"> ✓ enough</span>}
              </Button>
            ))}
          </div>
          {field("amps", "What it draws, A")}
          <div className="grid grid-cols-2 gap-2">
            {field("hung_source", "On the battery: source voltage")}
            {field("hung_load", "On the battery: voltage across it")}
          </div>
          <OneOf
            label="Where it is connected"
            value={place}
            choices={[
              { id: "connector", name: "both leads in the connector" },
              { id: "return_moved", name: `${backWord()} lead on a proven ${backWord()}` },
              { id: "feed_moved", name: "feed lead on a proven fused feed" },
            ]}
            onPick={(p) => setPlace(p as Place)}
          />
          <form
            className="grid grid-cols-2 gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              keep();
            }}
          >
            {field("volts", "Voltage across it (0 counts)")}
            {field("source", "The source at that moment")}
            <Button type="submit" tone="strong" className="col-span-2 min-h-12">
              Save it
            </Button>
          </form>
          {wrong && (
            <p role="alert" className="text-over">
              {wrong}
            </p>
          )}
          <ul className="text-[14px]">
            {asked.data.read.map((r) => (
              <li key={r.reading}>{r.says}</li>
            ))}
          </ul>
        </div>
      )}
    </details>
  );
}
