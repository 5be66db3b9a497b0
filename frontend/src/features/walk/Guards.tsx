import { TriangleAlert } from "lucide-react";
import { useState } from "react";
import { Button } from "../../ui/Button";
import type { Walk } from "./api";
import { useWalkActs } from "./useWalkActs";

/** The cautions that can prevent an injury: taken note of one by one, before the first card. */
export function Guards({ walk }: { walk: Walk }) {
  const { note } = useWalkActs(walk);
  const [wrong, setWrong] = useState("");
  const [noted, setNoted] = useState<string[]>([]);
  return (
    <section aria-label="Before anything else" className="space-y-2">
      <h2 className="text-lg font-bold">Before anything else</h2>
      {walk.guards
        .map((g) => ({ ...g, acknowledged: g.acknowledged || noted.includes(g.id) }))
        .map((g) => (
          <div key={g.id} className="rounded-lg border border-rule bg-plate p-3">
            <p>
              <TriangleAlert size={16} aria-hidden className="mr-1 inline text-ochre" />
              <b>{g.caution.when}.</b> {g.caution.says}
            </p>
            <Button
              className="mt-2 w-full"
              tone={g.acknowledged ? "plain" : "strong"}
              disabled={g.acknowledged}
              onClick={async () => {
                setNoted((now) => [...now, g.id]);
                setWrong((await note(g.id, "acknowledged")) ?? "");
              }}
            >
              {g.acknowledged
                ? "Taken note of"
                : `I have taken note: ${g.caution.when.toLowerCase()}`}
            </Button>
          </div>
        ))}
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
