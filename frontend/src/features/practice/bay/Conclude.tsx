import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../../../ui/Button";
import { OverSheet } from "../../../ui/Dialog";
import { Pick } from "../../../ui/TextField";
import type { Bay, Thing, useAct } from "../api";

type Claim = NonNullable<
  NonNullable<Parameters<ReturnType<typeof useAct>["mutate"]>[0]["claims"]>[number]
>;

/** What is wrong, of which kind, and what to do about it; or that all is well. */
export function Conclude({
  bay,
  act,
  onClose,
}: {
  bay: Bay;
  act: ReturnType<typeof useAct>;
  onClose: () => void;
}) {
  const navigate = useNavigate();
  const [claims, setClaims] = useState<Claim[]>([]);
  const of = (id: string) => claims.find((c) => c.element === id);
  const turn = (thing: Thing) => {
    if (of(thing.id)) return setClaims(claims.filter((c) => c.element !== thing.id));
    const [kind, remedy] = [thing.kinds[0]?.id, thing.remedies[0]?.id];
    if (kind && remedy) setClaims([...claims, { element: thing.id, kind, remedy }]);
  };
  const change = (id: string, said: Partial<Claim>) =>
    setClaims(claims.map((c) => (c.element === id ? { ...c, ...said } : c)));
  const say = (said: Claim[]) =>
    act.mutate(
      { kind: "conclude", claims: said },
      {
        onSuccess: () => {
          if (said.length > 0) return onClose();
          // Where all is well there is nothing to repair, and so nothing to prove.
          act.mutate(
            { kind: "hand_over" },
            { onSuccess: () => navigate(`/practise/debrief/${bay.attempt}`) },
          );
        },
      },
    );
  return (
    <OverSheet
      open
      onClose={onClose}
      title="What is wrong?"
      says="What you name is repaired at once. It costs time and parts, whether it was bad or not."
    >
      <ul className="max-h-[50vh] overflow-auto">
        {bay.things.map((thing) => {
          const claim = of(thing.id);
          return (
            <li key={thing.id} className="border-t border-line py-1">
              <label className="flex min-h-11 items-center gap-2 lg:min-h-8">
                <input
                  type="checkbox"
                  className="size-5"
                  checked={claim !== undefined}
                  onChange={() => turn(thing)}
                />
                <span className="break-words">{thing.name}</span>
              </label>
              {claim && (
                <div className="grid gap-2 pl-7 sm:grid-cols-2">
                  <Pick
                    label="It"
                    value={claim.kind}
                    choices={thing.kinds.map((k) => [k.id, k.says] as const)}
                    onPick={(kind) => change(thing.id, { kind })}
                  />
                  <Pick
                    label="Do"
                    value={claim.remedy ?? "replaced"}
                    choices={thing.remedies.map((r) => [r.id, r.says] as const)}
                    onPick={(remedy) => change(thing.id, { remedy })}
                  />
                </div>
              )}
            </li>
          );
        })}
      </ul>
      <div className="mt-3 flex flex-wrap gap-2">
        <Button
          tone="strong"
          disabled={claims.length === 0 || act.isPending}
          onClick={() => say(claims)}
        >
          Repair {claims.length > 1 ? `these ${claims.length}` : "it"}
        </Button>
        {!bay.repaired && (
          <Button disabled={claims.length > 0 || act.isPending} onClick={() => say([])}>
            All is well
          </Button>
        )}
      </div>
    </OverSheet>
  );
}
