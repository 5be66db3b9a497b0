import { CircleDot, FilePen, Gauge, PenLine, TriangleAlert } from "lucide-react";
import { useParams } from "react-router";
import { type Schema, sentence } from "../../api/client";
import { clock, weekday } from "../../format/day";
import { Heading } from "../../ui/Heading";
import { BarFile, BarLink, Page } from "../../ui/Page";
import { useTimeline } from "./api";

type Event = Schema["EventOut"];
const MARKS: Record<string, typeof Gauge> = {
  taken_in: CircleDot,
  changed: FilePen,
  read: Gauge,
  signed: PenLine,
};

/** Everything that was done to a job: nothing in it is ever changed or taken away. */
export function TimelinePage() {
  const { job = "" } = useParams();
  const line = useTimeline(job);
  const days = new Map<string, Event[]>();
  for (const event of line.data?.events ?? []) {
    const day = weekday(event.at);
    days.set(day, [...(days.get(day) ?? []), event]);
  }
  return (
    <Page
      title={line.data && `${line.data.title} · what was done`}
      back={[`/jobs/${job}/craft`, "The craft"]}
      acts={
        <>
          {line.data?.craft_name && (
            <BarLink to={`/?${new URLSearchParams({ craft: line.data.craft_name, away: "any" })}`}>
              All jobs of {line.data.craft_name}
            </BarLink>
          )}
          <BarFile href={`/api/v1/jobs/${job}/readings.csv`}>Readings as CSV</BarFile>
        </>
      }
      className="max-w-3xl"
    >
      <Heading className="text-xl font-bold">What was done</Heading>
      <p className="mb-3 text-soft">{line.data?.title}</p>
      {line.isPending && <p className="text-soft">Looking it up …</p>}
      {line.isError && (
        <p role="alert" className="text-over">
          {sentence(line.error)}
        </p>
      )}
      {[...days].map(([day, events]) => (
        <section key={day} aria-label={day}>
          <h2 className="mt-3 mb-1 font-bold">{day}</h2>
          <ol className="border-b border-line">
            {events.map((event) => (
              <Line key={event.at + event.says} event={event} />
            ))}
          </ol>
        </section>
      ))}
    </Page>
  );
}

function Line({ event }: { event: Event }) {
  const Mark = MARKS[event.code] ?? TriangleAlert;
  return (
    <li className="flex gap-3 border-t border-line py-1.5">
      <time dateTime={event.at} className="num w-20 shrink-0 whitespace-nowrap text-soft">
        {clock(event.at)}
      </time>
      <Mark size={16} aria-hidden className="mt-0.5 shrink-0 text-soft" />
      <span className="min-w-0">
        {event.says} {event.who && <b>{event.who}</b>}
      </span>
    </li>
  );
}
