import { type FormEvent, useState } from "react";
import { type Schema, sentence } from "../../api/client";
import { Button } from "../../ui/Button";
import { OneOf } from "../../ui/OneOf";
import { Pick, TextField } from "../../ui/TextField";
import { useSay } from "../../ui/told/Notices";
import { wrongWith } from "../../ui/told/wrong";
import { type MeterForm, useMeterActs, useTryMeter } from "./api";

const WAYS = [
  { id: "scpi", name: "answers SCPI" },
  { id: "lines", name: "sends lines of text" },
];
const UNITS: [MeterForm["unit"] & string, string][] = [
  ["V", "V"],
  ["MV", "mV"],
  ["A", "A"],
  ["MA", "mA"],
  ["OHM", "Ω"],
];
const BAUDS = [2400, 4800, 9600, 19200, 38400, 57600, 115200].map((b): [string, string] => [
  `${b}`,
  `${b}`,
]);
const EMPTY: MeterForm = {
  name: "",
  speaks: "scpi",
  address: "",
  spec: "",
  figure: 0,
  unit: "V",
  baud: 9600,
};

/** A meter by its address: tried by one press, then added. */
export function AddMeter({ ports, specs }: { ports: string[]; specs: string[] }) {
  const [form, setForm] = useState<MeterForm>(EMPTY);
  const trying = useTryMeter();
  const { add } = useMeterActs();
  const say = useSay();
  const set = (more: Partial<MeterForm>) => setForm((now) => ({ ...now, ...more }));
  /** Another address is another meter: what the last one answered is gone. */
  const elsewhere = (more: Partial<MeterForm>) => {
    trying.reset();
    add.reset();
    set({ ...more, figure: 0 });
  };
  const keep = (event: FormEvent) => {
    event.preventDefault();
    add.mutate(form, {
      onSuccess: () => {
        say(`${form.name.trim()} is added.`);
        trying.reset();
        setForm(EMPTY);
      },
    });
  };
  const failed = add.error ?? trying.error;
  const named = ["name", "address", "spec"].some((field) => wrongWith(failed, field));
  return (
    <form aria-label="Add a meter" className="mt-5 space-y-2" onSubmit={keep}>
      <h2 className="font-bold">Add a meter</h2>
      <OneOf
        label="How it speaks"
        value={form.speaks ?? "scpi"}
        choices={WAYS}
        onPick={(speaks) => elsewhere({ speaks: speaks === "lines" ? "lines" : "scpi" })}
      />
      <div className="grid gap-2 sm:grid-cols-2">
        <TextField
          label={form.speaks === "lines" ? "Port" : "Address or port"}
          hint={form.speaks === "lines" ? "/dev/ttyUSB0 or COM3" : "192.168.1.20 or COM3"}
          value={form.address}
          list={ports}
          onChange={(address) => elsewhere({ address })}
          wrong={wrongWith(failed, "address")}
        />
        <TextField
          label="Its name here"
          hint="Blue meter"
          value={form.name ?? ""}
          onChange={(name) => set({ name })}
          wrong={wrongWith(failed, "name")}
        />
        <Pick
          label="Its maker's specification"
          value={form.spec ?? ""}
          choices={[["", "as the workshop's meter"], ...specs.map((s): [string, string] => [s, s])]}
          onPick={(spec) => set({ spec })}
        />
        {form.speaks === "lines" && (
          <div className="grid grid-cols-2 gap-2">
            <Pick
              label="Bits a second"
              value={`${form.baud}`}
              choices={BAUDS}
              onPick={(baud) => elsewhere({ baud: Number(baud) })}
            />
            <Pick
              label="Unit, if it sends none"
              value={form.unit ?? "V"}
              choices={UNITS}
              onPick={(unit) => set({ unit })}
            />
          </div>
        )}
      </div>
      {trying.data && (
        <Answered
          answered={trying.data}
          figure={form.figure ?? 0}
          onPick={(figure) => set({ figure })}
        />
      )}
      {failed && !named && (
        <p role="alert" className="text-over">
          {sentence(failed)}
        </p>
      )}
      <div className="flex gap-2">
        <Button
          onClick={() => trying.mutate(form)}
          disabled={trying.isPending || form.address.trim() === ""}
        >
          {trying.isPending ? "Asking it …" : "Test"}
        </Button>
        <Button type="submit" tone="strong" disabled={add.isPending}>
          Add
        </Button>
      </div>
    </form>
  );
}

/** What a meter answered when it was tried; of lines of text, which of their figures is the reading. */
function Answered({
  answered,
  figure: chosen,
  onPick,
}: {
  answered: Schema["MeterTried"];
  figure: number;
  onPick: (figure: number) => void;
}) {
  return (
    <div role="status" className="rounded border border-rule bg-plate p-2">
      <p className="break-words">
        It answered <b className="num">{answered.who}</b>
        {answered.shows && (
          <>
            {" "}
            and shows <b className="num">{answered.shows}</b>
          </>
        )}
        .
      </p>
      {answered.figures.length > 0 && (
        <fieldset className="mt-1">
          <legend className="text-[14px]">Which of its figures is the reading?</legend>
          <div className="flex flex-wrap gap-x-4">
            {answered.figures.map((figure, at) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: its place in the line is what it is
              <label key={at} className="flex min-h-11 items-center gap-2">
                <input
                  type="radio"
                  name="figure"
                  className="size-5"
                  checked={chosen === at}
                  onChange={() => onPick(at)}
                />
                <span className="num">
                  {figure.text} {figure.unit}
                </span>
              </label>
            ))}
          </div>
        </fieldset>
      )}
    </div>
  );
}
