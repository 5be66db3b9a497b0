import { Check, CircleDashed, X } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { sentence } from "../../api/client";
import { Button } from "../../ui/Button";
import { Heading } from "../../ui/Heading";
import { BarLink } from "../../ui/Page";
import { useSay } from "../../ui/told/Notices";
import { useJobs } from "../jobs/api";
import { type Exercise, type Practice, useBegin, useMakeOwn, usePractice } from "./api";
import { NewSet } from "./NewSet";
import { Practising } from "./Practising";

/** All there is to practise: today's exercise, what was begun, lessons, levels, what was set. */
export function PracticePage() {
  const practice = usePractice();
  return (
    <Practising
      title="Practise"
      back={["/", "Jobs"]}
      acts={<BarLink to="/practise/progress">Your progress</BarLink>}
      className="max-w-5xl"
    >
      <Heading className="text-xl font-bold">Practise</Heading>
      <p className="mb-3 text-soft">
        Circuits with something wrong in them, or nothing. Measure, say what it is, repair it, prove
        it. Then see what your readings told.
      </p>
      {practice.isPending && <p className="text-soft">Loading …</p>}
      {practice.isError && (
        <p role="alert" className="text-over">
          {sentence(practice.error)}
        </p>
      )}
      {practice.data && <All practice={practice.data} />}
    </Practising>
  );
}

function All({ practice }: { practice: Practice }) {
  const next = practice.levels.find((l) => l.exercises.some((e) => !e.right)) ?? practice.levels[0];
  const mine = practice.sets.filter((s) => s.mine);
  return (
    <div className="space-y-6">
      <section aria-label="Begin here" className="grid gap-3 sm:grid-cols-2">
        <Offer head="Today's exercise" exercise={practice.today} />
        {practice.open[0] && <Offer head="Go on with" exercise={practice.open[0]} />}
      </section>
      {mine.map((set) => (
        <section key={set.id} aria-label={`Set for you: ${set.name}`}>
          <h2 className="text-lg font-bold">Set for you: {set.name}</h2>
          <List exercises={set.exercises} asked={set.id} />
        </section>
      ))}
      <section aria-label="Lessons">
        <h2 className="text-lg font-bold">Ten lessons, two minutes each</h2>
        <ol className="grid gap-x-6 sm:grid-cols-2">
          {practice.lessons.map((lesson, i) => (
            <li key={lesson.id} className="border-t border-line">
              <Link
                to={`/practise/lessons/${lesson.id}`}
                className="flex min-h-11 items-center gap-2 hover:bg-tint"
              >
                <Sign right={lesson.right} />
                <span className="num w-6 text-right text-soft">{i + 1}</span>
                <span className="flex-1">{lesson.title}</span>
              </Link>
            </li>
          ))}
        </ol>
      </section>
      <section aria-label="Levels">
        <h2 className="text-lg font-bold">Seven levels</h2>
        {practice.levels.map((level) => (
          <details key={level.level} open={level === next} className="border-t border-line">
            <summary className="flex min-h-12 cursor-pointer flex-wrap items-center gap-x-3 py-1">
              <b>
                {level.level} {level.name}
              </b>
              <span className="flex-1 text-soft">{level.asks}</span>
              <span className="num text-soft">
                {level.exercises.filter((e) => e.right).length} of {level.exercises.length} right
              </span>
            </summary>
            <List exercises={level.exercises} />
            <Another like={level.exercises[0]} />
          </details>
        ))}
      </section>
      <Own practice={practice} />
      <Sets practice={practice} />
    </div>
  );
}

/** Right, not right, or not done yet: by its shape too. */
export function Sign({ right }: { right: boolean | null }) {
  if (right === null) {
    return <CircleDashed size={16} role="img" aria-label="not done yet" className="text-unknown" />;
  }
  return right ? (
    <Check size={16} role="img" aria-label="right" className="text-slate" />
  ) : (
    <X size={16} role="img" aria-label="not right" className="text-over" />
  );
}

function Offer({ head, exercise }: { head: string; exercise: Exercise }) {
  return (
    <div className="flex flex-col rounded border border-rule bg-plate p-3">
      <p className="text-[13px] text-soft">{head}</p>
      <p className="text-lg font-bold">{exercise.title}</p>
      <p className="flex-1">{exercise.complaint}</p>
      <div className="mt-2">
        <Open exercise={exercise} strong />
      </div>
    </div>
  );
}

/** Begin an exercise, go on with it, or see what was said of it. */
function Open({
  exercise: e,
  asked = "",
  strong,
}: {
  exercise: Exercise;
  asked?: string;
  strong?: boolean;
}) {
  const begin = useBegin();
  const start = () => begin.mutate({ exercise: e.key, asked_by: asked });
  if (e.attempt && !e.ended) {
    return (
      <Link
        to={`/practise/bay/${e.attempt}`}
        aria-label={`Go on: ${e.title}`}
        className="inline-flex min-h-11 items-center font-bold text-slate underline lg:min-h-8"
      >
        Go on
      </Link>
    );
  }
  return (
    <span className="inline-flex flex-wrap items-center gap-x-3">
      {e.attempt && (
        <Link
          to={`/practise/debrief/${e.attempt}`}
          aria-label={`Debrief: ${e.title}`}
          className="inline-flex min-h-11 items-center text-slate underline lg:min-h-8"
        >
          Debrief
        </Link>
      )}
      <Button
        tone={strong && !e.attempt ? "strong" : "plain"}
        disabled={begin.isPending}
        aria-label={`${e.attempt ? "Again" : "Begin"}: ${e.title}`}
        onClick={start}
      >
        {e.attempt ? "Again" : "Begin"}
      </Button>
    </span>
  );
}

export function List({ exercises, asked = "" }: { exercises: Exercise[]; asked?: string }) {
  return (
    <ol className="mb-2">
      {exercises.map((e, i) => (
        <li
          key={e.key}
          className="flex flex-wrap items-center gap-x-3 border-t border-line py-1 first:border-t-0"
        >
          <Sign right={e.right} />
          <span className="num w-6 text-right text-soft">{i + 1}</span>
          <span className="min-w-0 flex-1 basis-56">
            <b className="break-words">{e.title}</b>{" "}
            <span className="text-soft">{e.outcome || e.complaint}</span>
          </span>
          <Open exercise={e} asked={asked} />
        </li>
      ))}
    </ol>
  );
}

function Another({ like }: { like: Exercise | undefined }) {
  const begin = useBegin();
  if (!like) return null;
  return (
    <p className="mb-3">
      <Button disabled={begin.isPending} onClick={() => begin.mutate({ like: like.key })}>
        Another like these
      </Button>
    </p>
  );
}

function Own({ practice }: { practice: Practice }) {
  const [choosing, setChoosing] = useState(false);
  return (
    <section aria-label="From your own jobs">
      <h2 className="text-lg font-bold">From your own jobs</h2>
      <p className="text-soft">
        A job whose fault was found becomes an exercise by one press. Customer and names stay out of
        it.
      </p>
      <List exercises={practice.own} />
      {choosing ? (
        <FoundJobs onMade={() => setChoosing(false)} />
      ) : (
        <Button onClick={() => setChoosing(true)}>Choose a job</Button>
      )}
    </section>
  );
}

/** Jobs whose fault was found: a press makes an exercise of one. */
function FoundJobs({ onMade }: { onMade: () => void }) {
  const shelf = useJobs("away=any");
  const make = useMakeOwn();
  const say = useSay();
  const jobs = (shelf.data?.pages ?? []).flatMap((page) => page.jobs).filter((j) => j.fault);
  const press = (job: string) =>
    make.mutate(job, {
      onSuccess: (made) => {
        say(`Made: ${made.title}.`);
        onMade();
      },
      onError: (error) => say(sentence(error), { bad: true }),
    });
  if (shelf.isPending) return <p className="text-soft">Loading jobs …</p>;
  if (jobs.length === 0) return <p>No fault was found in any job yet.</p>;
  return (
    <ul aria-label="Jobs whose fault was found">
      {jobs.map((job) => (
        <li
          key={job.id}
          className="flex flex-wrap items-center gap-x-3 border-t border-line py-1 first:border-t-0"
        >
          <span className="min-w-0 flex-1 basis-56">
            <b className="break-words">{job.title}</b>{" "}
            <span className="text-soft">{job.fault}</span>
          </span>
          <Button disabled={make.isPending} onClick={() => press(job.id)}>
            Make an exercise
          </Button>
        </li>
      ))}
    </ul>
  );
}

function Sets({ practice }: { practice: Practice }) {
  const [making, setMaking] = useState(false);
  return (
    <section aria-label="For a group">
      <h2 className="text-lg font-bold">For a group</h2>
      {practice.sets.length === 0 && (
        <p className="text-soft">Choose exercises for some people, and see what they did.</p>
      )}
      <ul className="mb-2">
        {practice.sets.map((set) => (
          <li key={set.id} className="border-t border-line">
            <Link
              to={`/practise/sets/${set.id}`}
              className="flex min-h-11 flex-wrap items-center gap-x-3 hover:bg-tint"
            >
              <b className="break-words">{set.name}</b>
              <span className="text-soft">
                {set.exercises.length} exercises, {set.learners.length} people
              </span>
            </Link>
          </li>
        ))}
      </ul>
      <Button onClick={() => setMaking(true)}>Set exercises for a group</Button>
      {making && <NewSet practice={practice} onClose={() => setMaking(false)} />}
    </section>
  );
}
