import { ArrowLeft, Gauge, Smartphone } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { sentence } from "../../api/client";
import { sayWhoReads, whoReads } from "../../api/who";
import { when } from "../../format/day";
import { type Settings, useSettings } from "../../format/settings";
import { Button } from "../../ui/Button";
import { Heading } from "../../ui/Heading";
import { Pick, TextField } from "../../ui/TextField";
import { applyTheme, storedTheme, type Theme } from "../../ui/theme";
import { wrongWith } from "../../ui/told/wrong";
import { useTitle } from "../../ui/useTitle";
import { useCopies, useKeepSettings, useMakeCopy } from "./api";

const CHOICES: {
  key: keyof Settings;
  label: string;
  choices: readonly (readonly [string, string])[];
}[] = [
  {
    key: "length",
    label: "Lengths",
    choices: [
      ["m", "metres"],
      ["ft", "feet"],
    ],
  },
  {
    key: "size",
    label: "Sizes typed without a unit are in",
    choices: [
      ["mm2", "mm²"],
      ["awg", "AWG"],
    ],
  },
  {
    key: "temperature",
    label: "Temperatures",
    choices: [
      ["C", "°C"],
      ["F", "°F"],
    ],
  },
  {
    key: "volts",
    label: "Volts below 1 V",
    choices: [
      ["V", "as volts, 0.140"],
      ["mV", "as millivolts, 140"],
    ],
  },
  {
    key: "comma",
    label: "Decimal mark",
    choices: [
      ["no", "point, 0.5"],
      ["yes", "comma, 0,5"],
    ],
  },
  {
    key: "paper",
    label: "Paper of the hand-over sheet",
    choices: [
      ["a4", "A4"],
      ["letter", "Letter"],
    ],
  },
  {
    key: "back_word",
    label: "Word for the return side",
    choices: [
      ["return", "return"],
      ["ground", "ground"],
      ["earth", "earth"],
      ["negative", "negative"],
    ],
  },
];
const THEMES = [
  ["light", "light"],
  ["dark", "dark"],
  ["sun", "full sun, highest contrast"],
] as const;

/** How safe the jobs are: the copies that were made by themselves, and one more. */
function Copies() {
  const copies = useCopies().data;
  const make = useMakeCopy();
  if (!copies) return null;
  const newest = copies.newest && when(copies.newest);
  return (
    <section aria-label="Copies of all jobs" className="mt-4 flex flex-wrap items-center gap-3">
      <p className="flex-1">
        {newest
          ? `${copies.count} ${copies.count === 1 ? "copy" : "copies"} of all jobs, the newest of ${newest}.`
          : "No copy of the jobs yet; one is made when work is done."}
      </p>
      <Button onClick={() => make.mutate()} disabled={make.isPending}>
        Back up now
      </Button>
    </section>
  );
}

/** The workshop's units and words, kept for everyone; the colours, kept on this device. */
export function SettingsPage() {
  const settings = useSettings();
  useTitle("Settings");
  return (
    <main className="mx-auto max-w-2xl px-4 py-4">
      <Link to="/" className="inline-flex min-h-11 items-center gap-1 text-slate lg:min-h-8">
        <ArrowLeft size={15} aria-hidden /> Jobs
      </Link>
      <Heading className="mb-3 text-xl font-bold">Settings</Heading>
      {settings.isError && (
        <p role="alert" className="text-over">
          {sentence(settings.error)}
        </p>
      )}
      {settings.data && <Form settings={settings.data} />}
      <Copies />
      <Link
        to="/phones"
        className="mt-4 inline-flex min-h-11 items-center gap-2 font-bold text-slate underline"
      >
        <Smartphone size={17} aria-hidden /> Phones that read and write here
      </Link>
      <Link
        to="/meters"
        className="flex min-h-11 items-center gap-2 font-bold text-slate underline"
      >
        <Gauge size={17} aria-hidden /> Meters that speak
      </Link>
    </main>
  );
}

const TEXTS = [
  "workshop",
  "feed_colour",
  "return_colour",
  "currency",
  "prices_of",
  "hour_price",
  "reel",
] as const;

function Form({ settings }: { settings: Settings }) {
  const kept = {
    workshop: settings.workshop ?? "",
    feed_colour: settings.feed_colour ?? "",
    return_colour: settings.return_colour ?? "",
    currency: settings.currency ?? "",
    prices_of: settings.prices_of ?? "",
    hour_price: settings.hour_price ?? "",
    reel: settings.reel ?? "",
  };
  const [texts, setTexts] = useState(kept);
  const [theme, setTheme] = useState<Theme>(storedTheme);
  const [who, setWho] = useState(whoReads);
  const keep = useKeepSettings();
  const keepTexts = () => {
    const changed = TEXTS.filter((key) => texts[key].trim() !== kept[key]);
    if (changed.length) keep.mutate(Object.fromEntries(changed.map((key) => [key, texts[key]])));
  };
  return (
    <>
      <form
        className="grid gap-x-4 gap-y-3 sm:grid-cols-2"
        onSubmit={(e) => {
          e.preventDefault();
          keepTexts();
        }}
        onBlur={keepTexts}
      >
        {/* Enter keeps a text: with several of them a form does so only where something submits it. */}
        <input type="submit" hidden />
        <TextField
          className="sm:col-span-2"
          label="Workshop"
          hint="shown on the jobs page"
          value={texts.workshop}
          onChange={(workshop) => setTexts({ ...texts, workshop })}
        />
        {CHOICES.map(({ key, label, choices }) => (
          <Pick
            key={key}
            label={label}
            value={String(settings[key])}
            choices={choices}
            onPick={(value) => keep.mutate({ [key]: value })}
          />
        ))}
        {(["feed", "return"] as const).map((side) => (
          <TextField
            key={side}
            label={`Colour of new ${side} wires`}
            hint="your own code, for cut lists"
            value={texts[`${side}_colour`]}
            onChange={(colour) => setTexts({ ...texts, [`${side}_colour`]: colour })}
          />
        ))}
        <TextField
          label="Currency"
          hint="stands behind each price"
          value={texts.currency}
          onChange={(currency) => setTexts({ ...texts, currency })}
        />
        <TextField
          label="The prices in your tables are of"
          hint="a date, for lists and quotes"
          value={texts.prices_of}
          onChange={(prices_of) => setTexts({ ...texts, prices_of })}
        />
        <TextField
          label="An hour of work costs"
          hint="for quotes"
          numeric
          value={texts.hour_price}
          onChange={(hour_price) => setTexts({ ...texts, hour_price })}
          wrong={wrongWith(keep.error, "hour_price")}
        />
        <TextField
          label="Wire comes on reels of"
          hint="25 m"
          numeric
          value={texts.reel}
          onChange={(reel) => setTexts({ ...texts, reel })}
          wrong={wrongWith(keep.error, "reel")}
        />
        <Pick
          label="The meter for volts"
          value={settings.meter ?? ""}
          choices={settings.meters.map((m): [string, string] => [m, m])}
          onPick={(meter) => keep.mutate({ meter })}
        />
        <Pick
          label="Colours on this device"
          value={theme}
          choices={THEMES}
          onPick={(value) => {
            applyTheme(value as Theme, true);
            setTheme(value as Theme);
          }}
        />
      </form>
      <div className="mt-3 grid gap-x-4 sm:grid-cols-2">
        <TextField
          label="Measured by (this device)"
          hint="kept with each reading of a walk"
          value={who}
          onChange={(name) => {
            setWho(name);
            sayWhoReads(name);
          }}
        />
      </div>
      <p className="mt-4 text-[13px] text-soft">
        Whatever is set, a figure can be typed with its own unit: 12 ft, 3.7 m, 10 AWG, 77 °F, 140
        mV, 2,5. Files stay in volts, metres and degrees Celsius.
      </p>
    </>
  );
}
