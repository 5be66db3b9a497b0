import { TriangleAlert } from "lucide-react";
import { useState } from "react";
import { Button } from "../../ui/Button";
import type { Walk } from "./api";
import { useWalkActs } from "./useWalkActs";

/** The cautions that can prevent an injury: read, and taken note of, before the first card. */
export function Guards({ walk }: { walk: Walk }) {
  const { note } = useWalkActs(walk);
  const [wrong, setWrong] = useState("");
  const [noting, setNoting] = useState(false);
  const open = walk.guards.filter((g) => !g.acknowledged);
  const acknowledge = async () => {
    setNoting(true);
    const troubles = await Promise.all(open.map((g) => note(g.id, "acknowledged")));
    setWrong(troubles.find((t) => t !== null) ?? "");
    setNoting(false);
  };
  return (
    <section aria-label="Safety first" className="space-y-2">
      <h2 className="text-lg font-bold">Safety first</h2>
      <ul className="divide-y divide-line rounded-lg border border-rule bg-plate px-3">
        {open.map((g) => (
          <li key={g.id} className="py-2.5">
            <TriangleAlert size={16} aria-hidden className="mr-1 inline text-ochre" />
            <b>{g.caution.when}.</b> {g.caution.says}
          </li>
        ))}
      </ul>
      <Button
        className="min-h-14 w-full text-lg"
        tone="strong"
        disabled={noting}
        onClick={acknowledge}
      >
        I have read these
      </Button>
      {wrong && (
        <p role="alert" className="text-over">
          {wrong}
        </p>
      )}
      <p className="text-[13px] text-soft">
        This tool supports competent people. The code in force and licensed practice come first.
      </p>
    </section>
  );
}
