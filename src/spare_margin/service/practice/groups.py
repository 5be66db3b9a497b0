"""Exercises that somebody set for a group, and what came of them."""

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from spare_margin.core.errors import JobError
from spare_margin.core.practice.result import Result
from spare_margin.service.job.revising import new_id, now
from spare_margin.service.practice.attempts import came_to
from spare_margin.service.practice.exercises import exercise_of
from spare_margin.store import practice as store
from spare_margin.store.practice import ExerciseSet

MOST_EXERCISES, MOST_LEARNERS, MOST_SETS = 40, 60, 200


@dataclass(frozen=True, slots=True)
class Done:
    """What came of one exercise of a set with one learner: tries, and the last that ended."""

    learner: str
    exercise: str
    tries: int
    result: Result | None


def set_exercises(
    connection: sqlite3.Connection,
    name: str,
    who: str,
    exercises: Sequence[str],
    learners: Sequence[str],
) -> ExerciseSet:
    """Set exercises for some learners. JobError names what is wrong."""
    called = " ".join(name.split())
    people = tuple(dict.fromkeys(" ".join(each.split()) for each in learners if each.strip()))
    keys = tuple(dict.fromkeys(exercises))
    if not called:
        raise JobError("name", "is empty", "what the group is told")
    if not keys or len(keys) > MOST_EXERCISES:
        raise JobError("exercises", f"are {len(keys)}", f"1 to {MOST_EXERCISES}")
    if not people or len(people) > MOST_LEARNERS:
        raise JobError("learners", f"are {len(people)}", f"1 to {MOST_LEARNERS} names, one a line")
    if len(store.sets(connection)) >= MOST_SETS:
        raise JobError("name", f"there are {MOST_SETS} sets already", "take one out first")
    for key in keys:
        exercise_of(connection, key)
    made = ExerciseSet(new_id(), called[:120], now(), who, keys, people)
    store.keep_set(connection, made)
    return made


def came_of(connection: sqlite3.Connection, held: ExerciseSet) -> list[Done]:
    """What came of a set: by learner and exercise, in their order. What was done, never what is hidden."""
    tries = store.attempts_of_set(connection, held.id)
    out = []
    for learner in held.learners:
        for key in held.exercises:
            own = [a for a in tries if a.who == learner and a.exercise == key]
            ended = [a for a in own if a.ended_at is not None]
            result = came_to(connection, ended[-1]) if ended else None
            out.append(Done(learner, key, len(own), result))
    return out
