import { useNavigate } from "react-router";
import type { Schema } from "../../api/client";
import { useDraft } from "../../offline/draft";
import { Button } from "../../ui/Button";
import { OneOf } from "../../ui/OneOf";
import { HandBar } from "../../ui/Page";
import { Pick, TextField } from "../../ui/TextField";
import { WrongElsewhere } from "../../ui/told/WrongElsewhere";
import { wrongWith } from "../../ui/told/wrong";
import { useTitle } from "../../ui/useTitle";
import { useCheckLoad, useLoadNames } from "./api";

type Asked = Schema["CheckLoad"];
type What = Asked["what"];
const NOTHING: Asked = {
  name: "",
  nominal_v: 12,
  what: "other",
  craft: "other",
  battery: "flooded",
  craft_name: "",
  customer: "",
  complaint: "",
};
const KINDS: [What, string][] = [
  ["pump", "Pump"],
  ["motor", "Motor or fan"],
  ["lamp", "Lamp"],
  ["heater", "Heater or cooler"],
  ["winch", "Winch or thruster"],
  ["control", "Control unit, sensor"],
  ["charger", "Charger, generator"],
  ["other", "Something else"],
];
const CRAFT: [Asked["craft"], string][] = [
  ["other", "not said"],
  ["boat", "boat"],
  ["vehicle", "vehicle"],
  ["caravan", "caravan"],
];
const BATTERIES: [Asked["battery"], string][] = [
  ["flooded", "lead, or not known"],
  ["agm", "AGM or gel"],
  ["lithium", "lithium"],
];

/** Check one load: its name and what it is are enough for the first card. */
export function CheckPage() {
  const [begun, setBegun] = useDraft<Asked>("spare-margin.check");
  const asked = begun ?? NOTHING;
  const set = (more: Partial<Asked>) => setBegun({ ...asked, ...more });
  const navigate = useNavigate();
  const names = useLoadNames();
  const making = useCheckLoad();
  useTitle("Check one load");
  const begin = (what: What) =>
    making.mutate(
      { ...asked, what },
      {
        onSuccess: (made) => {
          setBegun(null);
          navigate(`/jobs/${made.id}/walk?run=${encodeURIComponent(made.run)}`);
        },
      },
    );
  return (
    <div className="min-h-full">
      <HandBar back={["/", "Back to jobs"]} heading="Check one load" />
      <main className="mx-auto max-w-xl px-3 pt-3 pb-8">
        <TextField
          label="What is it called?"
          hint="e.g. bilge pump, cabin fan"
          value={asked.name}
          onChange={(name) => set({ name })}
          wrong={wrongWith(making.error, "name")}
          autoFocus
          list={names}
        />
        <div className="mt-3">
          <OneOf
            label="Volts of the craft"
            value={String(asked.nominal_v)}
            choices={["12", "24", "48"].map((v) => ({ id: v, name: `${v} V` }))}
            onPick={(v) => set({ nominal_v: Number(v) as Asked["nominal_v"] })}
          />
        </div>
        <h2 className="mt-4 font-bold">What is it? Tap to begin.</h2>
        <div className="mt-1 grid grid-cols-2 gap-2">
          {KINDS.map(([what, name]) => (
            <Button
              key={what}
              className="min-h-14 justify-start text-left"
              disabled={making.isPending}
              onClick={() => begin(what)}
            >
              {name}
            </Button>
          ))}
        </div>
        <WrongElsewhere error={making.error} fields={["name"]} />
        <p className="mt-3 text-soft">
          No lengths, sizes or current needed. Four readings show whether feed and return are good.
          The drawing fills in as you measure.
        </p>
        <details className="mt-2 rounded border border-rule bg-plate px-3">
          <summary className="min-h-11 py-3 text-soft">More details, if known</summary>
          <div className="grid grid-cols-2 gap-2 pb-3">
            <Pick
              label="Craft"
              value={asked.craft}
              choices={CRAFT}
              onPick={(v) => set({ craft: v as Asked["craft"] })}
            />
            <Pick
              label="Battery"
              value={asked.battery}
              choices={BATTERIES}
              onPick={(v) => set({ battery: v as Asked["battery"] })}
            />
            <TextField
              label="The craft's name"
              value={asked.craft_name}
              onChange={(craft_name) => set({ craft_name })}
            />
            <TextField
              label="Customer"
              value={asked.customer}
              onChange={(customer) => set({ customer })}
            />
            <TextField
              className="col-span-2"
              label="Complaint"
              value={asked.complaint}
              onChange={(complaint) => set({ complaint })}
            />
          </div>
        </details>
      </main>
    </div>
  );
}
