import { useEffect, useRef } from "react";
import { Link, useNavigate } from "react-router";
import { type Schema, sentence, type WrongField } from "../../api/client";
import { brief, marked } from "../../format/format";
import { Button } from "../../ui/Button";
import { OverSheet } from "../../ui/Dialog";
import { useBringIn, usePreview } from "./api";

interface Props {
  given: File | "ask" | null;
  onClose: () => void;
}
/** Import a job file: look at it first, then all of it or nothing. */
export function BringIn({ given, onClose }: Props) {
  const navigate = useNavigate();
  const picker = useRef<HTMLInputElement>(null);
  const look = usePreview();
  const keep = useBringIn();
  const bring = (text: string, how: "copy" | "merge" = "copy") =>
    keep.mutate(
      { text, how },
      {
        onSuccess: (made) => {
          onClose();
          navigate(`/jobs/${made.id}`);
        },
      },
    );
  const { mutate: lookAt, reset: forget } = look;
  const { reset: forgetKeep } = keep;
  useEffect(() => {
    forgetKeep();
    if (given instanceof File) lookAt(given);
    else forget();
  }, [given, lookAt, forget, forgetKeep]);

  const seen = look.data;
  const known = seen && seen.preview.errors.length === 0 ? seen.preview.known : null;
  const failed = look.error ?? keep.error;
  return (
    <OverSheet
      open={given !== null}
      onClose={onClose}
      title="Import a job file"
      says="A job file (JSON) as this program exports it. You see what is in it before anything is saved."
    >
      <input
        ref={picker}
        type="file"
        accept=".json,application/json"
        aria-label="Job file"
        className="block w-full rounded border border-dashed border-rule bg-plate p-3 file:mr-3 file:min-h-8 file:rounded file:border file:border-rule file:px-2.5 file:font-bold"
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) look.mutate(file);
          e.target.value = "";
        }}
      />
      {look.isPending && <p className="mt-3 text-soft">Reading it …</p>}
      {failed && (
        <p role="alert" className="mt-3 rounded border border-over bg-over-fill p-3">
          {sentence(failed)}
        </p>
      )}
      {seen && seen.preview.errors.length > 0 && (
        <Errors name={seen.name} errors={seen.preview.errors} />
      )}
      {seen && seen.preview.errors.length === 0 && <Found seen={seen} />}
      {known && (
        <p role="status" className="dots-close mt-3 rounded p-3">
          {known.says}{" "}
          <Link to={`/jobs/${known.job}`} onClick={onClose} className="font-bold underline">
            Open the one here
          </Link>
        </p>
      )}
      <div className="mt-4 flex flex-wrap justify-end gap-2">
        <Button onClick={onClose}>Cancel</Button>
        {known && known.relation !== "same" && known.relation !== "older" && (
          <Button
            tone="strong"
            disabled={keep.isPending}
            onClick={() => seen && bring(seen.text, "merge")}
          >
            Merge into the job here
          </Button>
        )}
        <Button
          tone={known ? "plain" : "strong"}
          disabled={!seen || seen.preview.errors.length > 0 || keep.isPending}
          onClick={() => seen && bring(seen.text)}
        >
          {known ? "Import as a separate job" : "Import it"}
        </Button>
      </div>
    </OverSheet>
  );
}

function Errors({ name, errors }: { name: string; errors: WrongField[] }) {
  return (
    <div role="alert" className="mt-3 rounded border border-over p-3">
      <p className="font-bold text-over">
        {name} cannot be taken:{" "}
        {errors.length === 1 ? "one thing is" : `${errors.length} things are`} wrong. Nothing was
        kept.
      </p>
      <ul className="mt-2 max-h-64 space-y-2 overflow-auto">
        {errors.map((e) => (
          <li key={`${e.field} ${e.problem}`}>
            {e.field && <code className="num mr-1 break-all font-bold">{e.field}</code>}
            {e.problem}
            {e.accepted && <span className="text-soft"> — accepted: {e.accepted}</span>}
          </li>
        ))}
      </ul>
    </div>
  );
}

function Found({ seen }: { seen: { name: string; preview: Schema["Preview"] } }) {
  const { preview } = seen;
  return (
    <section
      className="mt-3 rounded border border-rule bg-plate p-3"
      aria-label="What the file holds"
    >
      <h3 className="font-bold">{preview.title}</h3>
      <p className="text-soft">
        {preview.craft}, {marked(preview.nominal_v ?? "–")} V · {preview.reading_count} readings
      </p>
      {preview.complaint && <p className="mt-1">{preview.complaint}</p>}
      <table className="mt-2 w-full">
        <thead className="text-left text-[13px] text-soft">
          <tr>
            <th className="font-normal">Run</th>
            <th className="text-right font-normal">Pieces</th>
            <th className="text-right font-normal">Spare, calculated</th>
          </tr>
        </thead>
        <tbody>
          {preview.runs.map((run) => (
            <tr key={run.name} className="border-t border-line">
              <td className="py-1">{run.name}</td>
              <td className="num text-right">{run.piece_count}</td>
              <td className="num text-right">
                {run.spare_v === null ? "off" : brief(run.spare_v)}
                {run.spare_v !== null && <span className="font-sans text-soft"> V</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {preview.notices.map((notice) => (
        <p key={notice} className="mt-2 text-ochre">
          {notice}
        </p>
      ))}
    </section>
  );
}
