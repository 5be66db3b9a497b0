import { useState } from "react";
import { Button } from "../../ui/Button";
import { Heading } from "../../ui/Heading";
import { LoopPicture } from "../../ui/LoopPicture";
import { NextLink } from "../../ui/NextLink";
import { NotShown } from "../../ui/told/NotShown";
import { Opening } from "../../ui/told/Opening";
import { type Lesson, useAnswer, useLesson, usePractice } from "./api";
import { Practising } from "./Practising";

/** A lesson: one thing to pull, and a question that the loop itself answers. */
export function LessonPage({ id }: { id: string }) {
  const [pull, setPull] = useState<number | null>(null);
  const lesson = useLesson(id, pull);
  if (lesson.isPending) return <Opening says="Opening …" />;
  if (!lesson.data) {
    return (
      <NotShown
        what="There is no such lesson"
        error={lesson.error}
        to="/practise"
        way="To practice"
      />
    );
  }
  return <Opened lesson={lesson.data} at={pull ?? lesson.data.at} onPull={setPull} />;
}

function Opened({
  lesson,
  at,
  onPull,
}: {
  lesson: Lesson;
  at: number;
  onPull: (at: number) => void;
}) {
  const name = (id: string) => lesson.points.find((p) => p.id === id)?.name ?? id;
  return (
    <Practising title={lesson.title} className="max-w-3xl">
      <p className="text-soft">Lesson {lesson.number} of 10</p>
      <Heading className="text-xl font-bold">{lesson.title}</Heading>
      <p className="mt-1">{lesson.what}</p>
      <LoopPicture
        loop={lesson.loop}
        red={lesson.red}
        black={lesson.black}
        picked={null}
        name={name}
      />
      <Shares lesson={lesson} />
      <label className="mt-3 block">
        <span className="flex justify-between gap-3">
          <span>{lesson.pull}</span> <b className="num">{lesson.at_says}</b>
        </span>
        <input
          type="range"
          min={lesson.least}
          max={lesson.most}
          step={lesson.step}
          value={at}
          aria-valuetext={lesson.at_says}
          onChange={(e) => onPull(Number(e.target.value))}
          className="mt-1 h-11 w-full accent-[var(--copper)]"
        />
      </label>
      <dl aria-live="polite" className="grid grid-cols-[1fr_auto] gap-x-6 text-[16px]">
        {lesson.figures.map((f) => (
          <div key={f.key} className="col-span-2 grid grid-cols-subgrid border-t border-line py-1">
            <dt>{f.name}</dt>
            <dd className={`num text-right font-bold ${f.good === false ? "text-over" : ""}`}>
              {f.value}
            </dd>
          </div>
        ))}
      </dl>
      <Question lesson={lesson} onPull={onPull} />
    </Practising>
  );
}

/** The source's volts as one bar, cut into what each part drops. */
function Shares({ lesson }: { lesson: Lesson }) {
  const sum = lesson.shares.reduce((all, s) => all + s.volts, 0);
  const wide = lesson.shares.filter((s) => s.volts > 0.08 * sum);
  return (
    <div
      role="img"
      aria-label={`Where the source's volts are: ${lesson.shares.map((s) => `${s.name} ${s.says}`).join(", ")}`}
      className="mt-1 flex h-9 overflow-hidden rounded border border-rule"
    >
      {lesson.shares.map((s) => (
        <span
          key={s.name}
          style={{ width: `${(100 * s.volts) / sum}%` }}
          className={`flex items-center justify-center overflow-hidden border-r border-rule text-[12px] whitespace-nowrap last:border-r-0 ${s.load ? "bg-plate" : "bg-copper-fill"}`}
        >
          {wide.includes(s) && `${s.name} ${s.says}`}
        </span>
      ))}
    </div>
  );
}

function Question({ lesson, onPull }: { lesson: Lesson; onPull: (at: number) => void }) {
  const answer = useAnswer(lesson.id);
  const lessons = usePractice().data?.lessons ?? [];
  const next = lessons[lesson.number];
  const told = answer.data;
  return (
    <section aria-label="Question" className="mt-4 border-t-2 border-ink pt-2">
      <p className="text-[16px] font-bold">{lesson.question}</p>
      <div className="mt-2 grid gap-2">
        {lesson.answers.map((words, i) => {
          const given = answer.variables === i && told;
          const mark = told && told.correct === i ? " ✓" : given ? " ✗" : "";
          return (
            <Button
              key={words}
              aria-pressed={answer.variables === i}
              disabled={answer.isPending}
              onClick={() => answer.mutate(i)}
              className={`justify-start text-left ${told?.correct === i ? "border-2 border-slate" : given ? "border-2 border-over" : ""}`}
            >
              {words}
              {mark}
            </Button>
          );
        })}
      </div>
      {told && (
        <div role="status" className="mt-3 space-y-2">
          <p>
            <b>{told.right ? "Right." : "Not so."}</b> {lesson.answers[told.correct]}. {told.why}
          </p>
          <div className="flex flex-wrap gap-2">
            <Button onClick={() => onPull(told.shows_at)}>Show it</Button>
            <NextLink to={next ? `/practise/lessons/${next.id}` : "/practise"}>
              {next ? `Next: ${next.title}` : "To the exercises"}
            </NextLink>
          </div>
        </div>
      )}
    </section>
  );
}
