import { Download } from "lucide-react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Ask } from "../../ui/Ask";
import { Button } from "../../ui/Button";
import { Heading } from "../../ui/Heading";
import { BarFile } from "../../ui/Page";
import { NotShown } from "../../ui/told/NotShown";
import { Opening } from "../../ui/told/Opening";
import { useSet, useSetActs } from "./api";
import { Sign } from "./PracticePage";
import { Practising } from "./Practising";

/** What came of a set: each learner, each exercise. Nothing of what is hidden is told here. */
export function SetPage({ id: key }: { id: string }) {
  const set = useSet(key);
  const { remove } = useSetActs();
  const navigate = useNavigate();
  const [asking, setAsking] = useState(false);
  if (set.isPending) return <Opening says="Opening …" />;
  if (!set.data) {
    return (
      <NotShown what="There is no such set" error={set.error} to="/practise" way="To practice" />
    );
  }
  const { data } = set;
  return (
    <Practising
      title={data.name}
      acts={
        <>
          <BarFile href={`/api/v1/practice/sets/${key}.csv`}>
            <Download size={15} aria-hidden /> As CSV
          </BarFile>
          <Button tone="quiet" data-closes onClick={() => setAsking(true)}>
            Delete
          </Button>
        </>
      }
      className="max-w-5xl"
    >
      <Heading className="text-xl font-bold break-words">{data.name}</Heading>
      {data.made_by && <p className="mb-2 text-soft">Set by {data.made_by}.</p>}
      {data.learners.map((learner) => (
        <section key={learner} aria-label={learner} className="mb-4">
          <h2 className="font-bold break-words">{learner}</h2>
          <ul>
            {data.done
              .filter((d) => d.learner === learner)
              .map((d) => (
                <li
                  key={d.exercise}
                  className="flex flex-wrap items-baseline gap-x-3 border-t border-line py-1.5"
                >
                  <Sign right={d.right} />
                  <span className="min-w-0 flex-1 basis-56 break-words">{d.title}</span>
                  <span className="basis-56">
                    {d.outcome || (d.tries > 0 ? "Begun." : "Not begun.")}
                    {d.habits.length > 0 && (
                      <span className="block text-[13px] text-soft">{d.habits.join(", ")}</span>
                    )}
                  </span>
                  <span className="num text-right text-soft">
                    {d.minutes !== null && d.shortest_min !== null
                      ? `${Math.round(d.minutes)} min, ${Math.round(d.shortest_min)} at best`
                      : ""}
                  </span>
                </li>
              ))}
          </ul>
        </section>
      ))}
      <Ask
        open={asking}
        onClose={() => setAsking(false)}
        title={`Delete ${data.name}?`}
        says="What was practised stays."
        act="Delete"
        onAct={() => remove.mutate(key, { onSuccess: () => navigate("/practise") })}
      />
    </Practising>
  );
}
