import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { call, type Schema } from "../../api/client";
import { newId } from "../../api/ids";
import { jobChanged, keys } from "../../api/keys";
import { send } from "../../api/outbox";
import { whoReads } from "../../api/who";

export type Proof = Schema["ProofOut"];
export type Signed = Schema["SignedOut"];
export type Strokes = Signed["strokes"];

/** The proof of a run as far as it was read. */
export function useProof(job: string, run: string | null) {
  const words = run ? `?run=${encodeURIComponent(run)}` : "";
  return useQuery({
    queryKey: keys.proof(job, run),
    queryFn: () => call<Proof>(`/jobs/${job}/proof${words}`),
    placeholderData: keepPreviousData,
  });
}

/**
 * Say something on a proof, or sign it. Both are kept on this device until the server has them; each resolves
 * to what was wrong, or null.
 *
 * @example const { note } = useProofActs(proof);
 *          const wrong = await note("proof.cool", "acknowledged", "No joint is hot");
 */
export function useProofActs(proof: Proof) {
  const queries = useQueryClient();
  const post = async (path: "walk/notes" | "sign", name: string, body: object) => {
    const outcome = await send({
      job: proof.job,
      path,
      name,
      body: { id: newId(), run: proof.run, ...body },
    });
    await jobChanged(queries, proof.job);
    return outcome.state === "refused" ? outcome.why : null;
  };
  return {
    note: (step: string, state: "acknowledged" | "back", name: string, reason = "") =>
      post("walk/notes", name, { stage: "as_left", step, state, reason, who: whoReads() }),
    sign: (role: Signed["role"], name: string, strokes: Strokes) =>
      post("sign", `signed by ${name}`, { revision: proof.revision, role, name, strokes }),
  };
}

/** What a page can settle of what is still open. */
const SETTLED_HERE = ["points", "cool", "cautions"];

/** The first condition that is open and can be settled from the proof; null where nothing is left but to sign. */
export const nextOpen = (proof: Proof): Proof["conditions"][number]["code"] | null =>
  proof.conditions.find((c) => c.holds === null && SETTLED_HERE.includes(c.code))?.code ?? null;
