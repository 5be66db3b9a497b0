import { useState } from "react";
import { Link } from "react-router";
import { type Schema, sentence } from "../../api/client";
import { marked } from "../../format/format";
import { Button } from "../../ui/Button";
import { OverSheet } from "../../ui/Dialog";
import { Pick, TextField } from "../../ui/TextField";
import { useSay } from "../../ui/told/Notices";
import { WrongElsewhere } from "../../ui/told/WrongElsewhere";
import { wrongWith } from "../../ui/told/wrong";
import { type Craft, undoDrawn, useCraftStep, useDetails } from "./api";
import { ComplaintFields, CraftFields, WhoseFields } from "./JobFields";
import { SaveTemplate } from "./SaveTemplate";
import { POLARITIES } from "./words";

/** What is complained of, what the craft is, which limits it is held to. */
export function CraftFacts({ craft }: { craft: Craft }) {
  const [open, setOpen] = useState(false);
  const [saving, setSaving] = useState(false);
  const details = useDetails(craft.job);
  const say = useSay();
  const choose = (limit_set: string) => {
    const before = craft.limit_set;
    details.mutate(
      { limit_set },
      {
        onSuccess: () =>
          say("Limit set changed.", {
            act: { label: "Undo", run: () => details.mutate({ limit_set: before.id }) },
          }),
        onError: (error) => say(sentence(error), { bad: true }),
      },
    );
  };
  const complaint = [craft.complaint, craft.complaint_when, craft.complaint_conditions];
  const polarity = POLARITIES.find(([key]) => key === craft.polarity)?.[1];
  const sources = craft.sources
    .map((s) => s.name + (s.capacity_ah ? ` ${s.capacity_ah} Ah` : ""))
    .join(", ");
  return (
    <section aria-label="The job" className="flex flex-wrap items-start gap-x-6 gap-y-2">
      <div className="min-w-0 flex-1 basis-72">
        <p>{complaint.filter(Boolean).join(" ") || "No complaint recorded."}</p>
        <p className="text-[13px] text-soft">
          {[craft.craft_name, craft.customer].filter(Boolean).map((word) => `${word} · `)}
          {craft.craft}, {marked(craft.nominal_v)} V, {polarity} · {sources}{" "}
          <button
            type="button"
            className="no-print min-h-11 px-1 lg:min-h-8 font-bold text-slate underline"
            onClick={() => setOpen(true)}
          >
            Change
          </button>{" "}
          {craft.runs.length > 0 && (
            <button
              type="button"
              className="no-print min-h-11 px-1 lg:min-h-8 font-bold text-slate underline"
              onClick={() => setSaving(true)}
            >
              Save as a template
            </button>
          )}{" "}
          <Link
            to={`/jobs/${craft.job}/timeline`}
            className="no-print inline-flex min-h-11 items-center lg:min-h-8 px-1 font-bold text-slate underline"
          >
            What was done
          </Link>
        </p>
      </div>
      <div className="basis-60">
        <Pick
          label="Limits"
          value={craft.limit_set.id}
          choices={craft.limit_sets.map((s): [string, string] => [s.id, s.name])}
          onPick={choose}
        />
        <p className="mt-0.5 text-[12px] text-soft">{craft.limit_set.why}</p>
      </div>
      {open && <Facts craft={craft} onClose={() => setOpen(false)} />}
      {saving && <SaveTemplate craft={craft} onClose={() => setSaving(false)} />}
    </section>
  );
}

const FIELDS = ["title", "craft_name", "customer", "complaint", "when", "conditions"] as const;

function Facts({ craft, onClose }: { craft: Craft; onClose: () => void }) {
  const details = useDetails(craft.job);
  const step = useCraftStep(craft.job);
  const say = useSay();
  const words = {
    title: craft.title,
    craft_name: craft.craft_name,
    customer: craft.customer,
    complaint: craft.complaint,
    when: craft.complaint_when,
    conditions: craft.complaint_conditions,
  };
  const [said, setSaid] = useState({
    ...words,
    craft: craft.craft,
    nominal_v: craft.nominal_v as 12 | 24 | 48,
    polarity: craft.polarity,
  });
  const complain = (error: unknown) => say(sentence(error), { bad: true });
  const undo = (made: Schema["DetailsKept"]) =>
    undoDrawn(step, made)
      .then(() => details.mutateAsync(words))
      .catch(complain);
  const kept = (made: Schema["DetailsKept"]) => {
    onClose();
    say("Job saved.", { act: { label: "Undo", run: () => undo(made) } });
  };
  const set = (more: Partial<Schema["NewJob"]>) => setSaid((now) => ({ ...now, ...more }));
  return (
    <OverSheet open onClose={onClose} title="The job and its craft">
      <form
        className="grid grid-cols-2 gap-x-3 gap-y-2"
        onSubmit={(e) => {
          e.preventDefault();
          details.mutate(said, { onSuccess: kept });
        }}
      >
        <TextField
          className="col-span-2"
          label="Job"
          value={said.title}
          onChange={(title) => set({ title })}
          wrong={wrongWith(details.error, "title")}
        />
        <WhoseFields said={said} set={set} />
        <ComplaintFields said={said} set={set} />
        <CraftFields said={said} set={set} />
        <p className="self-end text-[13px] text-soft">
          Changing the nominal voltage scales the source voltages too.
        </p>
        <WrongElsewhere error={details.error} fields={FIELDS} />
        <div className="col-span-2 mt-2 flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button tone="strong" type="submit" disabled={details.isPending}>
            Save
          </Button>
        </div>
      </form>
    </OverSheet>
  );
}
