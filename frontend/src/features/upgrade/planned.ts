import { type Schema, sentence } from "../../api/client";
import { useSay } from "../../ui/told/Notices";
import { usePlanStep } from "./api";

/** What follows when something was taken as the plan: said, with a way back; or why it was not. */
export function usePlanned(job: string) {
  const say = useSay();
  const step = usePlanStep(job);
  const onError = (error: unknown) => say(sentence(error), { bad: true });
  // It is said even where the page was left meanwhile.
  const undo = () => void step.mutateAsync("undo").then((done) => say(done.said), onError);
  const onSuccess = (made: Schema["Taken"]) =>
    say(made.said, { act: { label: "Undo", run: undo } });
  return { onSuccess, onError };
}
