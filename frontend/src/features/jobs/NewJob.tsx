import { lazy, Suspense } from "react";
import { useNavigate } from "react-router";
import type { Schema } from "../../api/client";
import { useDraft } from "../../offline/draft";
import { Button } from "../../ui/Button";
import { OverSheet } from "../../ui/Dialog";
import { Pick, TextField } from "../../ui/TextField";
import { WrongElsewhere } from "../../ui/told/WrongElsewhere";
import { wrongWith } from "../../ui/told/wrong";
import { ComplaintFields, CraftFields, WhoseFields } from "../craft/JobFields";
import { BATTERIES, USUAL_POLARITY } from "../craft/words";
import { useNewJob } from "./api";

// Of a workshop that saved crafts alone: the first page is to be light. Where it does not come, a job begins empty.
const Begin = lazy(() =>
  import("./Begin").then(
    ({ Begin }) => ({ default: Begin }),
    () => ({ default: () => null }),
  ),
);

type Asked = Schema["NewJob"];
const EMPTY: Asked = {
  title: "",
  craft_name: "",
  customer: "",
  craft: "boat",
  nominal_v: 12,
  polarity: USUAL_POLARITY.boat,
  battery: "flooded",
  capacity: "",
  clamps: true,
  template: "",
  complaint: "",
  when: "",
  conditions: "",
};
const FIELDS = ["title", "capacity", "complaint", "when", "conditions"] as const;

/** A job from nothing: what it is, what feeds it, what is wrong with it. */
export function NewJob({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [begun, setBegun] = useDraft<Asked>("spare-margin.new-job");
  const asked = begun ?? EMPTY;
  const navigate = useNavigate();
  const making = useNewJob();
  const make = () =>
    making.mutate(asked, {
      onSuccess: (made) => {
        setBegun(null);
        onClose();
        navigate(`/jobs/${made.id}/craft`);
      },
    });
  const set = (more: Partial<Asked>) => setBegun({ ...asked, ...more });
  return (
    <OverSheet
      open={open}
      onClose={onClose}
      title="New job"
      says="Enter what you know now; you can change it later."
    >
      <form
        className="grid grid-cols-2 gap-x-3 gap-y-2"
        onSubmit={(e) => {
          e.preventDefault();
          make();
        }}
      >
        <TextField
          className="col-span-2"
          label="Job"
          hint="the craft's name, and what it is about"
          value={asked.title}
          onChange={(title) => set({ title })}
          wrong={wrongWith(making.error, "title")}
          autoFocus
        />
        <Suspense>
          <Begin value={asked.template ?? ""} onPick={(template) => set({ template })} />
        </Suspense>
        {!asked.template && (
          <>
            <CraftFields
              said={asked}
              set={(more) =>
                set(more.craft ? { ...more, polarity: USUAL_POLARITY[more.craft] } : more)
              }
            />
            <Pick
              label="Battery"
              value={asked.battery}
              choices={BATTERIES}
              onPick={(v) => set({ battery: v as Asked["battery"] })}
            />
            <TextField
              label="Size"
              hint="Ah, if known"
              numeric
              value={asked.capacity ?? ""}
              onChange={(capacity) => set({ capacity })}
              wrong={wrongWith(making.error, "capacity")}
            />
            <label className="flex min-h-11 items-center gap-2 self-end">
              <input
                type="checkbox"
                checked={asked.clamps}
                onChange={(e) => set({ clamps: e.target.checked })}
              />
              Include the battery clamps
            </label>
          </>
        )}
        <WhoseFields said={asked} set={set} />
        <ComplaintFields said={asked} set={set} />
        <WrongElsewhere error={making.error} fields={FIELDS} />
        <div className="col-span-2 mt-2 flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button tone="strong" type="submit" disabled={making.isPending}>
            Create job
          </Button>
        </div>
      </form>
    </OverSheet>
  );
}
