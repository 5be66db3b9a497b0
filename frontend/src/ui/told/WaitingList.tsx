import { CloudOff } from "lucide-react";
import { drop, useWaiting } from "../../api/outbox";
import { hindrance } from "../../api/reach";
import { Button } from "../Button";

/** What is on this device only, and what the server would not take. */
export function WaitingList({ job, away }: { job: string; away: boolean }) {
  const waiting = useWaiting(job);
  const why = hindrance.use();
  if (waiting.length === 0 && !away) return null;
  const refused = waiting.filter((w) => w.refused).length;
  return (
    <section aria-label="Waiting on this device" className="dots-close mb-2 rounded p-2">
      <p role="status" className="font-bold">
        <CloudOff size={16} aria-hidden className="mr-1 inline" />
        {says(waiting.length - refused, refused)}
      </p>
      {why && <p className="text-over">{why}</p>}
      <ul>
        {waiting.map((w) => (
          <li key={w.id} className="flex items-center gap-2">
            <span className="num">{w.name}</span>
            {w.refused && (
              <>
                <span className="text-over">{w.refused}</span>
                <Button
                  tone="quiet"
                  className="shrink-0 whitespace-nowrap"
                  onClick={() => drop(w.id)}
                >
                  Let it go
                </Button>
              </>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

function says(waits: number, refused: number): string {
  if (waits > 0)
    return `${waits} ${waits === 1 ? "entry waits" : "entries wait"} on this device; sent as soon as the program answers.`;
  if (refused > 0) return `${refused} ${refused === 1 ? "entry was" : "entries were"} not taken.`;
  return "The program does not answer. Readings you type wait on this device.";
}
