import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { call, type Schema, sentence, Unreachable } from "../../api/client";
import { newId } from "../../api/ids";
import { keys } from "../../api/keys";
import { whoReads } from "../../api/who";
import { useSay } from "../../ui/told/Notices";
import { heldOf, hold, readAhead, withReading } from "./away";

export type Practice = Schema["PracticeOut"];
export type Exercise = Schema["ExerciseOut"];
export type Bay = Schema["BayOut"];
/** What the next acts would show. */
export type Ahead = Schema["AheadOut"];
export type Thing = Schema["BayThing"];
export type Debrief = Schema["DebriefOut"];
export type Lesson = Schema["LessonOut"];
export type ExerciseSet = Schema["SetOut"];
/** An act as it is given; what is left out is as the server has it. */
export type Act = Partial<Schema["Act"]> & { kind: Schema["Act"]["kind"] };

/** So often is asked whether the program answers again, while something waits for it. */
const AGAIN_MS = 4000;

const mine = () => `?who=${encodeURIComponent(whoReads())}`;

/** All there is to practise, and where this learner stands with it. */
export function usePractice() {
  return useQuery({ queryKey: keys.practice, queryFn: () => call<Practice>(`/practice${mine()}`) });
}

/**
 * An exercise as far as it was played; what it would show next is fetched behind it, for where the network ends. What
 * waits here is sent first: the acts have their order.
 */
export function useBay(attempt: string) {
  const bay = useQuery({
    queryKey: keys.bay(attempt),
    // Asked where the browser thinks it has no network too: what waits is shown then.
    networkMode: "always",
    refetchInterval: () => (heldOf(attempt).length > 0 ? AGAIN_MS : false),
    queryFn: async () => {
      await sendHeld(attempt);
      const made = await call<Bay>(`/practice/attempts/${attempt}${mine()}`);
      // A copy that this device kept is older than what waits, and may lack what was done just before.
      return heldOf(attempt)
        .filter((held) => held.number >= made.number)
        .reduce(withReading, made);
    },
  });
  const playing = bay.data !== undefined && !bay.data.ended;
  useQuery({
    queryKey: keys.ahead(attempt),
    queryFn: () => call<Ahead>(`/practice/attempts/${attempt}/ahead${mine()}`),
    enabled: playing,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return bay;
}

/** Send the readings that wait of an exercise, in their order. */
async function sendHeld(attempt: string): Promise<void> {
  for (const next of heldOf(attempt)) {
    try {
      await sendAct(attempt, next.number, next.act);
    } catch (error) {
      if (error instanceof Unreachable) return;
      // Played on elsewhere meanwhile: what waits fits no more.
      hold(attempt, []);
      return;
    }
    hold(
      attempt,
      heldOf(attempt).filter((held) => held.number !== next.number),
    );
  }
}

const sendAct = (attempt: string, number: number, act: Act) =>
  call<Bay>(`/practice/attempts/${attempt}/acts`, { who: whoReads(), number, act });

const NOT_AWAY = "The program does not answer. Only plain volts and the clamp go on without it.";

/** Do one act more; what the bay then shows comes with the answer, or where there is none was known ahead. */
export function useAct(bay: Bay) {
  const queries = useQueryClient();
  const say = useSay();
  const { attempt } = bay;
  const key = keys.bay(attempt);
  return useMutation({
    // One after the other: each has its number.
    scope: { id: `practice ${attempt}` },
    networkMode: "always",
    // What is still on its way was asked before this act.
    onMutate: () => queries.cancelQueries({ queryKey: key }),
    mutationFn: async (act: Act) => {
      await sendHeld(attempt);
      const now = queries.getQueryData<Bay>(key) ?? bay;
      try {
        if (heldOf(attempt).length > 0) throw new Unreachable(NOT_AWAY);
        return await sendAct(attempt, now.number, act);
      } catch (error) {
        if (!(error instanceof Unreachable)) throw error;
        const ahead = queries.getQueryData<Ahead>(keys.ahead(attempt));
        const read = readAhead(now, ahead, now.number, act);
        if (!read) throw new Unreachable(NOT_AWAY);
        hold(attempt, [...heldOf(attempt), read]);
        return withReading(now, read);
      }
    },
    onSuccess: (made) => {
      queries.setQueryData(key, made);
      if (heldOf(attempt).length > 0) return;
      // Both are asked again, so that the copies on this device are of after the act.
      void queries.invalidateQueries({ queryKey: key });
      void queries.invalidateQueries({ queryKey: keys.ahead(attempt) });
    },
    onError: (error) => {
      say(sentence(error), { bad: true });
      if (!(error instanceof Unreachable)) void queries.invalidateQueries({ queryKey: key });
    },
  });
}

/** Begin an exercise, or another one like it, and go there. */
export function useBegin() {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const say = useSay();
  const begin = useMutation({
    mutationFn: ({ like, ...said }: { exercise?: string; asked_by?: string; like?: string }) =>
      like
        ? call<Bay>("/practice/another", { id: newId(), who: whoReads(), like })
        : call<Bay>("/practice/attempts", { id: newId(), who: whoReads(), ...said }),
    onSuccess: (made) => {
      queries.setQueryData(keys.bay(made.attempt), made);
      navigate(`/practise/bay/${made.attempt}`);
    },
    onError: (error) => say(sentence(error), { bad: true }),
  });
  return begin;
}

/** The debrief of an exercise that has ended. */
export function useDebrief(attempt: string) {
  return useQuery({
    queryKey: keys.debrief(attempt),
    queryFn: () => call<Debrief>(`/practice/attempts/${attempt}/debrief${mine()}`),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/** A lesson with its knob pulled somewhere; what was there stays until the next is. */
export function useLesson(lesson: string, pull: number | null) {
  return useQuery({
    queryKey: keys.lesson(lesson, pull),
    queryFn: () =>
      call<Lesson>(`/practice/lessons/${lesson}${pull === null ? "" : `?pull=${pull}`}`),
    placeholderData: (before) => (before?.id === lesson ? before : undefined),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/** Answer a lesson's question. */
export function useAnswer(lesson: string) {
  const queries = useQueryClient();
  const say = useSay();
  return useMutation({
    mutationFn: (answer: number) =>
      call<Schema["AnsweredOut"]>(`/practice/lessons/${lesson}`, { who: whoReads(), answer }),
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.practice }),
    onError: (error) => say(sentence(error), { bad: true }),
  });
}

/** How this learner stands. */
export function useProgress() {
  return useQuery({
    queryKey: keys.progress,
    queryFn: () => call<Schema["ProgressOut"]>(`/practice/progress${mine()}`),
  });
}

/** What came of a set for a group. */
export function useSet(set: string) {
  return useQuery({
    queryKey: keys.exerciseSet(set),
    queryFn: () => call<ExerciseSet>(`/practice/sets/${set}`),
  });
}

/** Set exercises for a group, or take a set out. */
export function useSetActs() {
  const queries = useQueryClient();
  const onSuccess = () => queries.invalidateQueries({ queryKey: keys.practice });
  const make = useMutation({
    mutationFn: (form: { name: string; exercises: string[]; learners: string[] }) =>
      call<ExerciseSet>("/practice/sets", { ...form, who: whoReads() }),
    onSuccess,
  });
  const remove = useMutation({
    mutationFn: (set: string) => call<null>(`/practice/sets/${set}/remove`, {}),
    onSuccess,
  });
  return { make, remove };
}

/** Make an exercise of a job. */
export function useMakeOwn() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (job: string) => call<Schema["OwnOut"]>("/practice/own", { job }),
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.practice }),
  });
}
