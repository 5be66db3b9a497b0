import { CloudOff } from "lucide-react";
import { useAllWaiting } from "../../api/outbox";

/** Says that the program does not answer, before anything waits for it: then the list of what waits does. */
export function Away({ away }: { away: boolean }) {
  const waits = useAllWaiting().length > 0;
  if (!away || waits) return null;
  return (
    <p role="status" className="dots-close mb-2 rounded p-2 font-bold">
      <CloudOff size={16} aria-hidden className="mr-1 inline" />
      Spare Margin is not responding. Readings you type are saved on this device.
    </p>
  );
}
