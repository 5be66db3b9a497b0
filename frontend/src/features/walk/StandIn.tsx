import { useState } from "react";
import { backWord, whole } from "../../format/format";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/TextField";
import { VerdictWord } from "../../ui/Verdict";
import { WrongElsewhere } from "../../ui/WrongElsewhere";
import { wrongWith } from "../../ui/wrong";
import { useStandIn, type Walk } from "./api";

type Form = Record<
  "source" | "on_battery" | "amps" | "in_connector" | "return_moved" | "feed_moved",
  string
>;
const EMPTY: Form = {
  source: "",
  on_battery: "",
  amps: "",
  in_connector: "",
  return_moved: "",
  feed_moved: "",
};

/** A known load in place of the unplugged one: what it shows, and whether it can show enough. */
export function StandIn({ walk }: { walk: Walk }) {
  const [form, setForm] = useState(EMPTY);
  const judge = useStandIn(walk);
  const fields: [keyof Form, string][] = [
    ["source", "source, on the posts"],
    ["on_battery", "at the load, hung on the battery"],
    ["amps", "its current"],
    ["in_connector", "at the load, both leads in the connector"],
    ["return_moved", `the same, ${backWord()} lead moved to a proven ${backWord()}`],
    ["feed_moved", "the same, feed lead moved to a proven fused feed"],
  ];
  const seen = judge.data;
  return (
    <details className="mt-3 rounded-lg border border-rule bg-plate px-3">
      <summary className="min-h-11 py-3 font-bold">With a stand-in load</summary>
      <p className="text-soft">
        Unplug the load, put a known one in its place. Hot within seconds: hold it only as long as
        the reading takes. Feed only through a fused lead. Never on the lines of control units.
      </p>
      <form
        className="grid grid-cols-2 gap-2 py-2"
        onSubmit={(e) => {
          e.preventDefault();
          judge.mutate(form);
        }}
      >
        {fields.map(([field, label]) => (
          <TextField
            key={field}
            label={label}
            numeric
            value={form[field]}
            onChange={(value) => setForm((now) => ({ ...now, [field]: value }))}
            wrong={wrongWith(judge.error, field)}
          />
        ))}
        <Button type="submit" className="col-span-2">
          Judge it
        </Button>
        <WrongElsewhere error={judge.error} fields={Object.keys(EMPTY)} />
      </form>
      {seen && (
        <div data-testid="stand-in" className="space-y-1 pb-3">
          <p className={seen.proves ? "" : "hatch-over rounded p-2 font-bold"}>{seen.says}</p>
          <p>
            Its leads take {whole(seen.leads_v)}; the smallest excess it reveals is{" "}
            {whole(seen.least_ohm)}.
          </p>
          {seen.loop_v !== null && (
            <p>The whole loop loses {whole(seen.loop_v)} at the loaded current.</p>
          )}
          {seen.feed_v !== null && (
            <p>
              Feed {whole(seen.feed_v)} <VerdictWord verdict={seen.feed_verdict} />
            </p>
          )}
          {seen.return_v !== null && (
            <p>
              {backWord()} {whole(seen.return_v)} <VerdictWord verdict={seen.return_verdict} />
            </p>
          )}
        </div>
      )}
    </details>
  );
}
