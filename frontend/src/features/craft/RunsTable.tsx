import { Copy, Trash2 } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { sentence } from "../../api/client";
import { bare, brief, whole } from "../../format/format";
import { Button } from "../../ui/Button";
import { TipButton } from "../../ui/TipButton";
import { useSay } from "../../ui/told/Notices";
import { INK, VerdictWord } from "../../ui/told/Verdict";
import { about, Why } from "../../ui/Why";
import { type Craft, undoDrawn, useCraftStep, useDraw } from "./api";

type Run = Craft["runs"][number];
const DUTY = {
  ordinary: "",
  short_time: "short time",
  control_supply: "control unit",
  charging: "charging path",
};

const MOST_SHOWN = 12;

/** All runs, least spare first, each in the scenario that is worst for it. */
export function RunsTable({ craft }: { craft: Craft }) {
  const [sought, setSought] = useState("");
  const [all, setAll] = useState(false);
  const many = craft.runs.length > MOST_SHOWN;
  const plain = sought.trim().toLowerCase();
  const found = craft.runs.filter((run) => run.name.toLowerCase().includes(plain));
  const shown = all || plain ? found : found.slice(0, MOST_SHOWN);
  return (
    <section aria-label="Runs, lowest spare first">
      <div className="mb-1 flex flex-wrap items-center justify-between gap-2">
        <h2 className="font-bold">
          Runs, lowest spare first
          {craft.measured && <span className="font-normal text-soft"> · as drawn</span>}
        </h2>
        {many && (
          <input
            type="search"
            aria-label="Find a run"
            placeholder={`find one of ${craft.runs.length}`}
            value={sought}
            onChange={(e) => setSought(e.target.value)}
            className="no-print min-h-11 rounded border border-rule bg-plate px-2 lg:min-h-8"
          />
        )}
      </div>
      <ul className="divide-y divide-line border-y border-line">
        {shown.map((run) => (
          <RunRow key={run.id} craft={craft} run={run} />
        ))}
      </ul>
      {found.length === 0 && craft.runs.length > 0 && (
        <p className="py-3 text-soft">No run of this name.</p>
      )}
      {many && !plain && (
        <Button tone="quiet" className="mt-1 text-slate underline" onClick={() => setAll(!all)}>
          {all ? `Only the ${MOST_SHOWN} with the lowest spare` : `All ${craft.runs.length} runs`}
        </Button>
      )}
    </section>
  );
}

function RunRow({ craft, run }: { craft: Craft; run: Run }) {
  const draw = useDraw(craft.job);
  const step = useCraftStep(craft.job);
  const say = useSay();
  const act = (action: "copy" | "remove") =>
    draw.mutate(
      { to: "runs", at: craft, body: { run: run.id, action } },
      {
        onSuccess: (made) =>
          say(made.said, {
            act: {
              label: "Undo",
              run: () => void undoDrawn(step, made),
            },
          }),
        onError: (error) => say(sentence(error), { bad: true }),
      },
    );
  const scenario = run.worst ? `&scenario=${run.worst}` : "";
  const words = [DUTY[run.duty], run.critical ? "critical" : ""].filter(Boolean).join(", ");
  return (
    <li className="relative grid grid-cols-[minmax(0,1fr)_auto] items-start gap-x-4 py-2 sm:grid-cols-[minmax(0,1fr)_auto_auto]">
      <div className="min-w-0">
        <h3 className="text-[15px] font-bold">
          <Link
            to={`/jobs/${craft.job}?run=${run.id}${scenario}&stage=${craft.stage}`}
            className="after:absolute after:inset-0"
          >
            {run.name}
          </Link>{" "}
          {words && <span className="text-[13px] font-normal text-soft">{words}</span>}
        </h3>
        <p className="num truncate text-[12px] text-soft print:whitespace-normal" title={run.text}>
          {run.text}
        </p>
        {run.says && (
          <p
            className={`text-[13px] ${run.verdict === "not_measured" ? "text-soft" : "text-over"}`}
          >
            {run.says}
          </p>
        )}
      </div>
      <div className="w-44 text-right max-sm:row-span-2 sm:w-60">
        <p className={`num text-lg leading-tight font-bold ${INK[run.verdict]}`}>
          <Why
            title={`${run.name}: spare`}
            lines={about(run.working, "feed", "return", "round_trip")}
            stop
            className="relative z-10 max-lg:-my-3 max-lg:min-h-11"
          >
            {run.worst ? brief(run.spare_v) : "–"}
          </Why>
          <span className="font-sans text-[13px] font-normal text-soft">
            {" "}
            V spare{run.spare_share !== null && `, ${whole(run.spare_share)}`}
          </span>
        </p>
        <p className="text-[12px] text-soft">
          {run.verdict === "not_measured" ? null : run.worst ? (
            <>
              {run.verdict === "over" && <VerdictWord verdict="over" />}
              {run.verdict === "over" && " · "}
              {run.under && `${run.under}, `}
              worst: {run.worst_name}
            </>
          ) : (
            "off in every scenario"
          )}
        </p>
        {run.read !== null && (
          <p className="text-[13px]">
            read: <VerdictWord verdict={run.read} />
          </p>
        )}
        {run.load_v !== null && (
          <p className="num text-[12px] text-soft">
            <Why
              title={run.name}
              lines={about(run.working, "current", "load_v")}
              stop
              className="relative z-10 text-right max-lg:min-h-11"
            >
              {bare(run.current_a)} A · {whole(run.load_v)} at the load
            </Why>
          </p>
        )}
      </div>
      <span className="no-print relative z-10 -mb-1 flex justify-self-end max-sm:col-start-1 max-sm:row-start-2 max-sm:-ml-2 max-sm:self-end max-sm:justify-self-start">
        <TipButton
          tone="quiet"
          className="px-2"
          aria-label={`Duplicate ${run.name}`}
          tip="Duplicate this run"
          onClick={() => act("copy")}
        >
          <Copy size={15} aria-hidden />
        </TipButton>
        <TipButton
          tone="quiet"
          className="px-2"
          aria-label={`Take ${run.name} out`}
          tip="Delete this run and the pieces only it uses"
          onClick={() => act("remove")}
        >
          <Trash2 size={15} aria-hidden />
        </TipButton>
      </span>
    </li>
  );
}
