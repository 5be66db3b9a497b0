import { useState } from "react";
import { Button } from "../../ui/Button";
import { NextLink } from "../../ui/NextLink";
import { nextOpen, type Proof, useProofActs } from "./api";

const SIGNS = new Map<boolean | null, [string, string, string]>([
  [true, ["✓", "holds", "text-slate"]],
  [false, ["▲", "does not hold", "text-over"]],
  [null, ["○", "not known yet", "text-ochre"]],
]);

/** What a pass needs, one line each: sign, what is known, and what cures it where it does not hold. */
export function Conditions({ proof }: { proof: Proof }) {
  const { note } = useProofActs(proof);
  const [wrong, setWrong] = useState("");
  const say = async (step: string, name: string) =>
    setWrong((await note(step, "acknowledged", name)) ?? "");
  const next = nextOpen(proof);
  const walk = `/jobs/${proof.job}/walk?${new URLSearchParams({ run: proof.run, stage: "as_left" })}`;
  return (
    <section aria-label="Requirements">
      <h2 className="mb-1 text-lg font-bold">Requirements</h2>
      <ul className="border-b border-line">
        {proof.conditions.map((c) => {
          const [sign, word, ink] = SIGNS.get(c.holds) ?? ["", "", ""];
          return (
            <li key={c.code} className="flex gap-2 border-t border-line py-1.5">
              <span role="img" aria-label={word} className={`num w-5 shrink-0 font-bold ${ink}`}>
                {sign}
              </span>
              <div className="min-w-0 flex-1">
                <b>{c.head}.</b> <span className={c.holds === false ? ink : ""}>{c.says}</span>{" "}
                <span className="text-soft">{c.cure}</span>
                {c.code === "points" && c.holds === null && (
                  <span className="my-1 block">
                    <NextLink to={walk} strong={c.code === next}>
                      {proof.started ? "Go on measuring" : "Start measuring"}
                    </NextLink>
                  </span>
                )}
                {c.code === "cool" && c.holds === null && proof.started && (
                  <span className="block">
                    <Button
                      tone={c.code === next ? "strong" : "plain"}
                      className="my-1 w-full lg:w-auto"
                      onClick={() => say("proof.cool", "No joint is hot")}
                    >
                      I checked each joint: none is hot
                    </Button>
                  </span>
                )}
                {c.code === "cautions" && c.holds === null && (
                  <ul className="mt-1 space-y-1">
                    {proof.cautions.map((caution) => (
                      <li key={caution.id}>
                        <span className="block text-[13px]">
                          <b>{caution.when}.</b> {caution.says}
                        </span>
                        <Button
                          tone={c.code === next ? "strong" : "plain"}
                          className="mt-0.5 w-full lg:w-auto"
                          onClick={() => say(`caution ${caution.id}`, caution.when)}
                        >
                          I have read: {caution.when.toLowerCase()}
                        </Button>
                      </li>
                    ))}
                  </ul>
                )}
              </div>
            </li>
          );
        })}
      </ul>
      {wrong && (
        <p role="alert" className="text-over">
          {wrong}
        </p>
      )}
    </section>
  );
}
