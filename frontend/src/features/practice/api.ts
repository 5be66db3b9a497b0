import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { call, type Schema, sentence } from "../../api/client";
import { newId } from "../../api/ids";
import { keys } from "../../api/keys";
import { whoReads } from "../../api/who";
import { useSay } from "../../ui/told/Notices";

export type Practice = Schema["PracticeOut"];
export type Exercise = Schema["ExerciseOut"];
export type Bay = Schema["BayOut"];
export type Thing = Schema["BayThing"];
export type Debrief = Schema["DebriefOut"];
export type Lesson = Schema["LessonOut"];
export type ExerciseSet = Schema["SetOut"];
/** An act as it is given; what is left out is as the server has it. */
export type Act = Partial<Schema["Act"]> & { kind: Schema["Act"]["kind"] };

const mine = () => `?who=${encodeURIComponent(whoReads())}`;

/** All there is to practise, and where this learner stands with it. */
export function usePractice() {
  return useQuery({ queryKey: keys.practice, queryFn: () => call<Practice>(`/practice${mine()}`) });
}

/** An exercise as far as it was played. */
export function useBay(attempt: string) {
  return useQuery({
    queryKey: keys.bay(attempt),
    queryFn: () => call<Bay>(`/practice/attempts/${attempt}${mine()}`),
  });
}

/** Do one act more; what the bay then shows comes with the answer. */
export function useAct(bay: Bay) {
  const queries = useQueryClient();
  const say = useSay();
  const key = keys.bay(bay.attempt);
  return useMutation({
    // One after the other: each has its number.
    scope: { id: `practice ${bay.attempt}` },
    mutationFn: (act: Act) => {
      const now = queries.getQueryData<Bay>(key) ?? bay;
      return call<Bay>(`/practice/attempts/${bay.attempt}/acts`, {
        who: whoReads(),
        number: now.number,
        act,
      });
    },
    onSuccess: (made) => queries.setQueryData(key, made),
    onError: (error) => {
      say(sentence(error), { bad: true });
      void queries.invalidateQueries({ queryKey: key });
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
