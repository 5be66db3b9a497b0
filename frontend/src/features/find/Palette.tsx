import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { type ReactNode, useState } from "react";
import { matchPath, useLocation, useNavigate } from "react-router";
import { call, type Schema, type Sheet } from "../../api/client";
import { keys } from "../../api/keys";
import { OverSheet } from "../../ui/Dialog";
import { finding, helping } from "../../ui/tools";
import { jobPages, WORKSHOP } from "./pages";

/** Jobs, runs of the job that is open, pages and acts, found by any of their words. */
export function Palette() {
  const open = finding.use();
  const [words, setWords] = useState("");
  const { pathname } = useLocation();
  const navigate = useNavigate();
  const job = matchPath("/jobs/:job/*", pathname)?.params.job;
  const go = (to: string) => {
    finding.set(false);
    navigate(to);
  };
  return (
    <OverSheet open={open} onClose={() => finding.set(false)} title="Find">
      <Command label="Find jobs, runs, pages and acts">
        <Command.Input
          autoFocus
          value={words}
          onValueChange={setWords}
          placeholder="A job, a run, a page, something to do"
          className="min-h-12 w-full rounded border border-rule bg-plate px-2 text-lg"
        />
        <Command.List
          label="Found"
          className="mt-2 [&_[cmdk-group-heading]]:mt-2 [&_[cmdk-group-heading]]:text-[13px] [&_[cmdk-group-heading]]:text-soft"
        >
          <Command.Empty className="p-2 text-soft">Nothing found.</Command.Empty>
          {job && <Runs job={job} go={go} />}
          {job && (
            <Command.Group heading="This job">
              {jobPages(job).map(([to, name]) => (
                <Item key={to} value={`page ${name}`} onSelect={() => go(to)}>
                  {name}
                </Item>
              ))}
              <Item
                value="Download job file"
                onSelect={() => {
                  finding.set(false);
                  window.location.assign(`/api/v1/jobs/${job}/file`);
                }}
              >
                Download job file
              </Item>
            </Command.Group>
          )}
          <Jobs words={words} go={go} />
          <Command.Group heading="The workshop">
            {WORKSHOP.map(([to, name]) => (
              <Item key={to} value={`workshop ${name}`} onSelect={() => go(to)}>
                {name}
              </Item>
            ))}
            <Item
              value="Help, the guide"
              onSelect={() => {
                finding.set(false);
                helping.set("");
              }}
            >
              Help
            </Item>
            <Item
              value="Print this page"
              onSelect={() => {
                finding.set(false);
                // Once the dialog is gone: it would be on the paper.
                requestAnimationFrame(() => window.print());
              }}
            >
              Print this page
            </Item>
          </Command.Group>
        </Command.List>
      </Command>
    </OverSheet>
  );
}

/** The runs of the job that is open. */
function Runs({ job, go }: { job: string; go: (to: string) => void }) {
  const sheet = useQuery({
    queryKey: keys.sheet(job, {}),
    queryFn: () => call<Sheet>(`/jobs/${job}/sheet`),
  });
  const runs = sheet.data?.runs ?? [];
  if (runs.length === 0) return null;
  return (
    <Command.Group heading="Runs">
      {runs.map((r) => {
        const run = `run=${encodeURIComponent(r.id)}`;
        return (
          <Item
            key={r.id}
            value={`run ${r.name} ${r.id}`}
            onSelect={() => go(`/jobs/${job}?${run}`)}
          >
            {r.name}
          </Item>
        );
      })}
      {runs.map((r) => {
        const run = `run=${encodeURIComponent(r.id)}`;
        return (
          <Item
            key={`walk ${r.id}`}
            value={`walk ${r.name} ${r.id}`}
            onSelect={() => go(`/jobs/${job}/walk?${run}`)}
          >
            Walk {r.name}
          </Item>
        );
      })}
    </Command.Group>
  );
}

/** Jobs with the words that are typed; the latest where none are. */
function Jobs({ words, go }: { words: string; go: (to: string) => void }) {
  const asked = words.trim().slice(0, 200);
  const list = useQuery({
    queryKey: keys.foundByWords(asked),
    queryFn: () => call<Schema["JobList"]>(`/jobs?${new URLSearchParams({ words: asked })}`),
  });
  const jobs = list.data?.jobs.slice(0, 8) ?? [];
  if (jobs.length === 0) return null;
  return (
    <Command.Group heading="Jobs">
      {jobs.map((j) => (
        // What the program found by these words is shown, whatever it is called.
        <Item key={j.id} value={`job ${j.id}`} also={[asked]} onSelect={() => go(`/jobs/${j.id}`)}>
          {j.title} <span className="text-[13px] text-soft">{j.craft_name}</span>
        </Item>
      ))}
    </Command.Group>
  );
}

function Item({
  value,
  onSelect,
  also = [],
  children,
}: {
  value: string;
  onSelect: () => void;
  /** Words by which it is found besides. */
  also?: string[];
  children: ReactNode;
}) {
  return (
    <Command.Item
      value={value}
      onSelect={onSelect}
      keywords={also}
      className="flex min-h-11 cursor-pointer items-center gap-2 rounded px-2 font-bold data-[selected=true]:bg-tint lg:min-h-9"
    >
      {children}
    </Command.Item>
  );
}
