import { useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { sentence } from "../../api/client";
import { Heading } from "../../ui/Heading";
import { Page } from "../../ui/Page";
import { useLogs } from "./api";
import { LayoutForm } from "./LayoutForm";

/** The logs of meters of a job, and room to bring one in. */
export function LogsPage() {
  const { job = "" } = useParams();
  const logs = useLogs(job);
  const navigate = useNavigate();
  const [file, setFile] = useState<File | null>(null);
  const picker = useRef<HTMLInputElement>(null);
  return (
    <Page title="Meter logs" back={[`/jobs/${job}`, "Run sheet"]} className="max-w-4xl">
      <Heading className="text-xl font-bold">Meter logs</Heading>
      <p className="mb-3 text-soft">{logs.data?.title}</p>
      <p className="mb-3">
        <Link to={`/jobs/${job}/live`} className="font-bold text-slate underline">
          Record from a meter, as it comes
        </Link>
      </p>
      {logs.isError && (
        <p role="alert" className="text-over">
          {sentence(logs.error)}
        </p>
      )}
      <label className="block">
        <span className="text-[13px] text-soft">
          CSV from a logging meter or clamp, up to five million rows. You check it before it is
          saved.
        </span>
        <input
          ref={picker}
          type="file"
          accept=".csv,.txt,.tsv,text/csv,text/plain"
          className="block w-full rounded border border-dashed border-rule bg-plate p-3 file:mr-3 file:min-h-8 file:rounded file:border file:border-rule file:px-2.5 file:font-bold"
          onChange={(e) => setFile(e.target.files?.[0] ?? null)}
        />
      </label>
      {file && (
        <LayoutForm
          key={`${file.name} ${file.size} ${file.lastModified}`}
          job={job}
          file={file}
          onDone={(log) => navigate(`/jobs/${job}/logs/${log}`)}
          onLeave={() => {
            setFile(null);
            if (picker.current) picker.current.value = "";
          }}
        />
      )}
      {logs.data && logs.data.logs.length > 0 && (
        <ul className="mt-5 border-b border-line">
          {logs.data.logs.map((log) => (
            <li key={log.id} className="border-t border-line">
              <Link
                to={`/jobs/${job}/logs/${log.id}`}
                className="flex min-h-12 flex-wrap items-baseline gap-x-4 py-2"
              >
                <b className="text-slate underline">{log.name}</b>
                <span className="text-soft">
                  {log.duration}, {log.rows}: {log.channels.join(", ")}
                </span>
              </Link>
            </li>
          ))}
        </ul>
      )}
    </Page>
  );
}
