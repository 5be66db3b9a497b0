import { useState } from "react";
import { day } from "../../format/day";
import { useDraft } from "../../offline/draft";
import { Button } from "../../ui/Button";
import { OverSheet } from "../../ui/Dialog";
import { TextField } from "../../ui/TextField";
import { pictureAt, type Shown, usePhotographActs, useWaitingPicture, WHEN } from "./api";
import { OnSheet } from "./OnSheet";

/** One photograph, large: what is written under it, when it was taken and by whom; the next one and the last. */
export function Viewer({
  job,
  shown,
  name,
  at,
  go,
}: {
  job: string;
  shown: Shown[];
  name: string;
  /** The id of the one on show; null for none. */
  at: string | null;
  go: (id: string | null) => void;
}) {
  const place = shown.findIndex((s) => s.photograph.id === at);
  const one = shown[place];
  const others = (by: number) => shown[place + by]?.photograph.id;
  return (
    <OverSheet open={one !== undefined} onClose={() => go(null)} title={name} wide>
      {one && (
        <Large key={one.photograph.id} job={job} one={one} onGone={() => go(null)}>
          {shown.length > 1 && (
            <>
              <Button disabled={!others(-1)} onClick={() => go(others(-1) ?? at)}>
                Previous
              </Button>
              <Button disabled={!others(1)} onClick={() => go(others(1) ?? at)}>
                Next
              </Button>
            </>
          )}
        </Large>
      )}
    </OverSheet>
  );
}

function Large({
  job,
  one: { photograph: p, waits },
  onGone,
  children,
}: {
  job: string;
  one: Shown;
  onGone: () => void;
  children: React.ReactNode;
}) {
  const { write, remove } = usePhotographActs(job);
  const here = useWaitingPicture(waits ? p.id : null);
  // What is typed and not saved yet is there again when it is opened again.
  const [begun, setBegun] = useDraft<string>(`spare-margin.photograph.${p.id}`);
  const note = begun ?? p.note;
  // Out of reach only the small one is on this device.
  const [scale, setScale] = useState<"large" | "small">("large");
  const src = waits ? here : pictureAt(job, p.id, scale);
  return (
    <div className="space-y-2">
      {src && (
        <img
          src={src}
          alt={p.note || WHEN[p.stage]}
          onError={() => setScale("small")}
          className="mx-auto max-h-[46vh] w-auto max-w-full rounded border border-rule"
          style={waits ? {} : { aspectRatio: `${p.width_px} / ${p.height_px}` }}
        />
      )}
      <p className="text-[13px] text-soft">
        {[WHEN[p.stage], p.who, day(p.taken_at)].filter(Boolean).join(" · ")}
      </p>
      {!waits && (
        <>
          <TextField label="What it shows" value={note} onChange={setBegun} />
          <OnSheet job={job} photograph={p} note={note}>
            On the hand-over sheet
          </OnSheet>
        </>
      )}
      <div className="flex flex-wrap items-center gap-2">
        {children}
        {!waits && (
          <>
            <Button
              disabled={note === p.note}
              onClick={async () => {
                if (await write(p.id, { note, on_sheet: p.on_sheet })) setBegun(null);
              }}
            >
              Save
            </Button>
            <Button
              tone="quiet"
              onClick={async () => {
                onGone();
                await remove(p.id);
              }}
            >
              Delete
            </Button>
          </>
        )}
      </div>
    </div>
  );
}
