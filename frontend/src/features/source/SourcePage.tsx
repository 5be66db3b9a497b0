import { useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { sentence } from "../../api/client";
import { bare, marked, whole } from "../../format/format";
import { Button } from "../../ui/Button";
import { Heading } from "../../ui/Heading";
import { Page } from "../../ui/Page";
import { Pick, TextField } from "../../ui/TextField";
import { Cautions } from "../../ui/told/Cautions";
import { useSay } from "../../ui/told/Notices";
import { WrongElsewhere } from "../../ui/told/WrongElsewhere";
import { wrongWith } from "../../ui/told/wrong";
import { BATTERIES } from "../craft/words";
import { type Check, type Form, useGiveModel, useKeepSourceCheck, useSourceCheck } from "./api";

type Field = keyof Form;

const STEPS: { title: string; says: string; fields: [Field, string, string][] }[] = [
  {
    title: "At rest",
    says: "Both leads on the posts themselves, not on the clamps. Red on the live post.",
    fields: [
      ["resting", "Resting volts", "12.65"],
      ["temperature", "Battery temperature", "21 °C"],
    ],
  },
  {
    title: "Under load",
    says: "Switch a load on and measure at once on the posts, then between the clamps. The difference is the drop in the clamps.",
    fields: [
      ["loaded", "Volts on the posts", "12.41"],
      ["current", "Current that flows", "18 A"],
      ["loaded_clamps", "Volts between the clamps", "12.40"],
    ],
  },
  {
    title: "Load test, if there is a tester",
    says: "Load at half the cold cranking amps (CCA) for 15 s; read the voltage at the end.",
    fields: [
      ["cold_crank", "Cold-crank rating", "600 A"],
      ["load_end", "Voltage at the end", "9.8"],
    ],
  },
  {
    title: "While it is charged",
    says: "Engine or charger running.",
    fields: [["charging", "Charging volts", "14.2"]],
  },
];
const ALL: Field[] = STEPS.flatMap((s) => s.fields.map(([field]) => field));

/** The source before anything else: is it worth going on, and what does it have inside. */
export function SourcePage() {
  const { job = "" } = useParams();
  const [words, setWords] = useSearchParams();
  const source = words.get("source") ?? "";
  const check = useSourceCheck(job, source);
  return (
    <Page
      title="Source check"
      back={[`/jobs/${job}/craft`, check.data?.title ?? "Craft"]}
      className="max-w-5xl"
    >
      {check.isError && (
        <p role="alert" className="text-over">
          {sentence(check.error)}
        </p>
      )}
      {check.data && (
        <Opened
          key={check.data.source}
          job={job}
          check={check.data}
          onSource={(id) => setWords({ source: id })}
        />
      )}
    </Page>
  );
}

function Opened({
  job,
  check,
  onSource,
}: {
  job: string;
  check: Check;
  onSource: (id: string) => void;
}) {
  const [form, setForm] = useState<Form>(check.form as Form);
  const keep = useKeepSourceCheck(job, check.source);
  const judge = (battery = check.battery) =>
    keep.mutate({ battery, form }, { onSuccess: (now) => setForm(now.form as Form) });
  return (
    <>
      <Heading className="text-xl font-bold">Source check: {check.name}</Heading>
      <p className="mb-3 text-soft">
        {check.live} to {check.back}, {marked(check.nominal_v)} V nominal
      </p>
      <div className="grid gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
        <form
          className="space-y-4"
          onSubmit={(e) => {
            e.preventDefault();
            judge();
          }}
        >
          <div className="grid gap-3 sm:grid-cols-2">
            {check.sources.length > 1 && (
              <Pick
                label="Source"
                value={check.source}
                choices={check.sources.map((s): [string, string] => [s.id, s.name])}
                onPick={onSource}
              />
            )}
            <Pick
              label="Battery"
              value={check.battery}
              choices={BATTERIES}
              onPick={(battery) => judge(battery as Check["battery"])}
            />
          </div>
          {STEPS.map((step, i) => (
            <fieldset key={step.title} className="border-t border-line pt-2">
              <legend className="pr-2 text-[15px] font-bold">
                {i + 1}. {step.title}
              </legend>
              <p className="mb-1 text-soft">{step.says}</p>
              <div className="grid gap-x-3 gap-y-2 sm:grid-cols-3">
                {step.fields.map(([field, label, hint]) => (
                  <TextField
                    key={field}
                    label={label}
                    hint={hint}
                    numeric
                    value={form[field] ?? ""}
                    onChange={(value) => setForm((now) => ({ ...now, [field]: value }))}
                    wrong={wrongWith(keep.error, field)}
                  />
                ))}
              </div>
              {i === 2 && check.load_test_a !== null && (
                <p className="mt-1 text-[13px] text-soft">
                  Load it with {bare(check.load_test_a)} A
                  {check.least_v !== null && `; ${whole(check.least_v)} or more at the end passes`}.
                </p>
              )}
            </fieldset>
          ))}
          <WrongElsewhere error={keep.error} fields={ALL} />
          <Button tone="strong" type="submit" disabled={keep.isPending}>
            Save and check
          </Button>
        </form>
        <Says job={job} check={check} />
      </div>
    </>
  );
}

const TONE: Record<Check["state"], string> = {
  unknown: "text-soft",
  reversed: "text-over",
  flat: "text-over",
  tired: "text-over",
  fair: "text-ochre",
  good: "text-slate",
  surface_charge: "text-ochre",
};

/** What the figures say, and the internal resistance offered to the model. */
function Says({ job, check }: { job: string; check: Check }) {
  const say = useSay();
  const give = useGiveModel(job, check.source);
  const take = (internal: string) =>
    give.mutate(internal, {
      onSuccess: () => say("The model uses it now."),
      onError: (error) => say(sentence(error), { bad: true }),
    });
  const found = check.internal_ohm;
  return (
    <section aria-label="What this says" className="space-y-3">
      <p>
        <span className={`text-2xl font-bold ${TONE[check.state]}`} data-testid="source-state">
          {check.state_says}
        </span>{" "}
        {check.charge !== null && (
          <span className="text-soft">about {whole(check.charge)} charged</span>
        )}
      </p>
      <ul className="space-y-2" data-testid="source-says">
        {check.findings.map((f) => (
          <li
            key={f.says}
            className={`border-l-2 pl-2 ${f.good === false ? "border-over" : f.good ? "border-slate" : "border-ochre"}`}
          >
            <span aria-hidden className="num mr-1 font-bold">
              {f.good === false ? "▲" : f.good ? "✓" : "·"}
            </span>
            {f.says} <span className="text-soft">{f.do}</span>
          </li>
        ))}
      </ul>
      <dl className="grid grid-cols-[1fr_auto] gap-x-4 gap-y-1 border-t border-line pt-2">
        <dt>internal resistance, measured</dt>
        <dd className="num text-right font-bold">{whole(found)}</dd>
        <dt>internal resistance, in use</dt>
        <dd className="num text-right font-bold">{whole(check.model_ohm)}</dd>
        <dt>both clamps</dt>
        <dd className="num text-right font-bold">{whole(check.clamps_ohm)}</dd>
      </dl>
      {check.offer && (
        <Button disabled={give.isPending} onClick={() => take(check.offer)}>
          Use {whole(found)} as internal resistance
        </Button>
      )}
      <Cautions cautions={check.cautions} />
    </section>
  );
}
