import { CloudOff } from "lucide-react";
import { useAllWaiting } from "../../api/outbox";
import { fromHere } from "../../api/reach";

/**
 * Says that the program does not answer, before anything else does: the list of what waits, or the bar over a page
 * that this device kept.
 */
export function Away({ away }: { away: boolean }) {
  const waits = useAllWaiting().length > 0;
  const kept = fromHere.use();
  if (!away || waits || kept) return null;
  return (
    <p role="status" className="dots-close mb-2 rounded p-2 font-bold">
      <CloudOff size={16} aria-hidden className="mr-1 inline" />
      Spare Margin is not responding. Readings you type are saved on this device.
    </p>
  );
}
