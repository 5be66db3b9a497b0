import { Printer } from "lucide-react";
import { useParams, useSearchParams } from "react-router";
import { Button } from "../../ui/Button";
import { NextFile } from "../../ui/NextLink";
import { OneOf } from "../../ui/OneOf";
import { BarLink, Page } from "../../ui/Page";
import { NotShown } from "../../ui/told/NotShown";
import { Opening } from "../../ui/told/Opening";
import { type Lists, useLists } from "./api";
import { Buying } from "./Buying";
import { Wires } from "./Wires";

/** What a planner leaves with: a list to wire from, a list to buy from, labels, a quote. */
export function ListsPage() {
  const { job = "" } = useParams();
  const [words, setWords] = useSearchParams();
  const lists = useLists(job, words.toString());
  if (lists.isPending) return <Opening says="Making the lists …" />;
  if (!lists.data) {
    return (
      <NotShown
        what="The lists cannot be shown"
        error={lists.error}
        to={`/jobs/${job}/craft`}
        way="To the craft"
      />
    );
  }
  const set = (name: string, values: string[]) => {
    const next = new URLSearchParams(words);
    next.delete(name);
    for (const value of values) next.append(name, value);
    setWords(next, { replace: true });
  };
  return <Opened lists={lists.data} words={words} set={set} />;
}

const STAGES = { as_found: "As found", planned: "Planned", as_left: "As left" };

interface Props {
  lists: Lists;
  words: URLSearchParams;
  set: (name: string, values: string[]) => void;
}

function Opened({ lists, words, set }: Props) {
  const at = `/api/v1/jobs/${lists.job}/lists`;
  const file = (name: string) => `${at}/${name}?${words}`;
  const chosen = words.getAll("run");
  return (
    <Page
      title={`${lists.title} · lists`}
      back={[`/jobs/${lists.job}/craft`, "The craft"]}
      heading={
        <>
          Lists <span className="font-normal text-soft">· {lists.title}</span>
        </>
      }
      acts={<BarLink to={`/jobs/${lists.job}/sizing`}>Sizes</BarLink>}
      className="space-y-4"
    >
      <div className="no-print flex flex-wrap items-end gap-x-4 gap-y-2">
        {lists.stages.length > 1 && (
          <OneOf
            label="Stage of the wiring"
            value={lists.stage}
            choices={lists.stages.map((stage) => ({ id: stage, name: STAGES[stage] }))}
            onPick={(stage) => set("stage", [stage])}
          />
        )}
        {lists.can_compare && (
          <OneOf
            label="What is listed"
            value={lists.whole ? "whole" : "new"}
            choices={[
              { id: "whole", name: "The whole craft" },
              { id: "new", name: "Against what lies there" },
            ]}
            onPick={(id) => set("whole", [String(id === "whole")])}
          />
        )}
        <RunsListed lists={lists} chosen={chosen} onPick={(runs) => set("run", runs)} />
        <Button className="ml-auto" onClick={() => window.print()}>
          <Printer size={15} aria-hidden /> Print
        </Button>
        <NextFile to={file("quote.pdf")}>Quote as PDF</NextFile>
      </div>
      {lists.to_size && (
        <p role="note" className="border-l-2 border-ochre pl-2">
          {lists.to_size}
        </p>
      )}
      <Wires
        lists={lists}
        files={{
          "As CSV": file("wires.csv"),
          "Labels to print": file("labels.pdf"),
          "Labels as CSV": file("labels.csv"),
        }}
      />
      <Buying lists={lists} file={file("buying.csv")} />
    </Page>
  );
}

function RunsListed({
  lists,
  chosen,
  onPick,
}: {
  lists: Lists;
  chosen: string[];
  onPick: (runs: string[]) => void;
}) {
  if (lists.runs.length < 2) return null;
  const says = chosen.length === 0 ? "All runs" : `${chosen.length} of ${lists.runs.length} runs`;
  return (
    <details className="relative">
      <summary className="min-h-11 rounded border border-rule bg-plate px-3 py-2.5 lg:min-h-8 lg:py-1">
        {says}
      </summary>
      <ul className="absolute z-20 max-h-80 w-64 overflow-auto rounded border border-rule bg-canvas p-2 shadow-lg">
        {lists.runs.map((run) => (
          <li key={run.id}>
            <label className="flex min-h-11 items-center gap-2 lg:min-h-7">
              <input
                type="checkbox"
                checked={chosen.includes(run.id)}
                onChange={(e) =>
                  onPick(
                    e.target.checked ? [...chosen, run.id] : chosen.filter((r) => r !== run.id),
                  )
                }
                className="size-5 lg:size-4"
              />
              {run.name}
            </label>
          </li>
        ))}
      </ul>
    </details>
  );
}
