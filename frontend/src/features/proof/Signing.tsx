import { useEffect, useRef, useState } from "react";
import SignaturePad from "signature_pad";
import { whoReads } from "../../api/who";
import { when } from "../../format/day";
import { Button } from "../../ui/Button";
import { NextFile } from "../../ui/NextLink";
import { TextField } from "../../ui/TextField";
import { nextOpen, type Proof, type Signed, type Strokes, useProofActs } from "./api";

const ROLES: Record<Signed["role"], string> = { fitter: "Installed by", customer: "Accepted by" };
const OUTCOMES: Record<Signed["outcome"], string> = {
  passed: "proved",
  failed: "not proved",
  open: "not proved yet",
};
const HEIGHT = 0.36;

const MEANS: Record<Signed["role"], string> = {
  fitter: "By signing you confirm that you did the work.",
  customer: "By signing you accept the work.",
};

/** Who signed this proof, and room to sign it with a finger. */
export function Signing({ proof }: { proof: Proof }) {
  const [role, setRole] = useState<Signed["role"] | null>(null);
  const ready = nextOpen(proof) === null && proof.outcome !== "failed";
  // Who did the work has signed it as it stands.
  const own = proof.signed.some((s) => s.role === "fitter" && s.revision === proof.revision);
  return (
    <section aria-label="Signatures">
      <h2 className="mb-1 text-lg font-bold">Signatures</h2>
      <ul>
        {proof.signed.map((s) => (
          <li key={s.id} className="flex items-center gap-3 border-t border-line py-1">
            <Drawn strokes={s.strokes} name={s.name} />
            <span className="min-w-0">
              {ROLES[s.role]} <b>{s.name}</b>
              <span className="block text-[13px] text-soft">
                {when(s.made_at)}, {OUTCOMES[s.outcome]}
                {s.revision !== proof.revision && "; wiring changed after signing"}
              </span>
            </span>
          </li>
        ))}
      </ul>
      {!proof.started ? (
        <p className="text-soft">Nothing to sign yet. Take as-left readings first.</p>
      ) : role === null ? (
        <div className="no-print mt-1 flex flex-wrap gap-2">
          {own && (
            <NextFile
              to={`/api/v1/jobs/${proof.job}/hand-over.pdf?run=${encodeURIComponent(proof.run)}`}
              strong={ready}
            >
              Save the hand-over sheet
            </NextFile>
          )}
          <Button
            tone={ready && !own ? "strong" : "plain"}
            className="max-lg:w-full"
            onClick={() => setRole("fitter")}
          >
            Sign as installer
          </Button>
          <Button className="max-lg:w-full" onClick={() => setRole("customer")}>
            Sign as customer
          </Button>
        </div>
      ) : (
        <Pad key={role} proof={proof} role={role} onDone={() => setRole(null)} />
      )}
    </section>
  );
}

function Pad({ proof, role, onDone }: { proof: Proof; role: Signed["role"]; onDone: () => void }) {
  const { sign } = useProofActs(proof);
  const [name, setName] = useState(role === "fitter" ? whoReads() : proof.customer);
  const [wrong, setWrong] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const canvas = useRef<HTMLCanvasElement>(null);
  const pad = useRef<SignaturePad | null>(null);
  useEffect(() => {
    const box = canvas.current;
    if (!box) return;
    const ratio = window.devicePixelRatio || 1;
    box.width = box.offsetWidth * ratio;
    box.height = box.offsetHeight * ratio;
    box.getContext("2d")?.scale(ratio, ratio);
    const ink = getComputedStyle(box).color;
    pad.current = new SignaturePad(box, { penColor: ink });
    return () => pad.current?.off();
  }, []);
  const keep = async () => {
    const width = canvas.current?.offsetWidth || 1;
    setBusy(true);
    const trouble = await sign(role, name, strokesOf(pad.current, width));
    setBusy(false);
    setWrong(trouble);
    if (trouble === null) onDone();
  };
  return (
    <form
      className="no-print mt-1 space-y-2 rounded-lg border border-rule bg-plate p-3"
      onSubmit={(e) => {
        e.preventDefault();
        keep();
      }}
    >
      <p>
        {proof.name}: <b>{proof.outcome_says.toLowerCase()}</b>. {MEANS[role]}
      </p>
      <TextField label="Name" value={name} onChange={setName} wrong={wrong} autoFocus />
      <canvas
        ref={canvas}
        aria-label="Sign here with a finger; the name alone will do"
        className="block aspect-[25/9] w-full max-w-md touch-none rounded border border-rule bg-canvas text-ink"
      />
      <div className="flex flex-wrap gap-2">
        <Button type="submit" tone="strong" disabled={busy || !name.trim()}>
          Sign
        </Button>
        <Button onClick={() => pad.current?.clear()}>Clear</Button>
        <Button tone="quiet" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  );
}

/** What was drawn, in shares of the box's width; every dot to a thousandth. */
function strokesOf(pad: SignaturePad | null, width: number): Strokes {
  const share = (at: number) => Math.round((at / width) * 1000) / 1000;
  const lines = (pad?.toData() ?? []).map((line) =>
    line.points.slice(0, 2000).map((p): [number, number] => [share(p.x), share(p.y)]),
  );
  return lines.slice(0, 100);
}

function Drawn({ strokes, name }: { strokes: Strokes; name: string }) {
  if (strokes.length === 0) return null;
  return (
    <svg
      role="img"
      aria-label={`Signature of ${name}`}
      viewBox={`0 0 1 ${HEIGHT}`}
      className="h-11 shrink-0"
    >
      {strokes.map((line) => (
        <polyline
          key={line.join(" ")}
          points={line.map(([x, y]) => `${x},${y}`).join(" ")}
          fill="none"
          strokeWidth={0.012}
          strokeLinecap="round"
          strokeLinejoin="round"
          className="stroke-ink"
        />
      ))}
    </svg>
  );
}
