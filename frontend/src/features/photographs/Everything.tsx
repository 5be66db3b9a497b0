import type { Of, Shown } from "./api";
import { BesideEachOther } from "./Photographs";

const JOB: Of = { subject: "job", about: "" };

/** Photographs of one thing after the other, the job as a whole first; ticked, they go on the hand-over sheet. */
export function Everything({ job, shown }: { job: string; shown: Shown[] }) {
  const things = new Map<string, { of: Of; name: string; own: Shown[] }>();
  things.set("job ", { of: JOB, name: "The job", own: [] });
  for (const each of shown) {
    const { subject, about } = each.photograph;
    const of: Of = each.part ? { subject: "part", about: each.part } : { subject, about };
    const key = `${of.subject} ${of.about}`;
    const thing = things.get(key) ?? { of, name: each.shows, own: [] };
    thing.own.push(each);
    // What is kept has its name; what waits says what it is of as it was called when it was taken.
    if (!each.waits && of.subject !== "job") thing.name = each.shows;
    things.set(key, thing);
  }
  return (
    <ul className="space-y-4">
      {[...things].map(([key, { of, name, own }]) => (
        <li key={key}>
          <h3 className="border-b border-line font-bold">{name}</h3>
          <BesideEachOther job={job} of={of} name={name} shown={own} ticks />
        </li>
      ))}
    </ul>
  );
}
