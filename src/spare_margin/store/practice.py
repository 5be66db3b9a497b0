"""What was practised: attempts, exercises from one's own jobs, sets for a group, lessons answered."""

import json
import sqlite3
from dataclasses import dataclass

from spare_margin.store.file.database import transaction


@dataclass(frozen=True, slots=True)
class Attempt:
    """One try at an exercise: acts as a JSON text, what it came to where it has ended. Times UTC."""

    id: str
    who: str
    exercise: str
    asked_by: str
    begun_at: str
    ended_at: str | None
    acts: str
    result: str | None


@dataclass(frozen=True, slots=True)
class OwnExercise:
    """An exercise from one's own jobs: its document, as text."""

    id: str
    made_at: str
    document: str


@dataclass(frozen=True, slots=True)
class ExerciseSet:
    """Exercises that somebody set for some learners."""

    id: str
    name: str
    made_at: str
    made_by: str
    exercises: tuple[str, ...]
    learners: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class LessonAnswered:
    """A lesson that somebody answered last, and whether it was right."""

    lesson: str
    answered_at: str
    right: bool


_ATTEMPT = "id, who, exercise, asked_by, begun_at, ended_at, acts, result"


def attempt(connection: sqlite3.Connection, attempt_id: str) -> Attempt | None:
    """The attempt of this id."""
    row = connection.execute(
        f"SELECT {_ATTEMPT} FROM practice_attempt WHERE id = ?", (attempt_id,)
    ).fetchone()
    return None if row is None else Attempt(*row)


def attempts(connection: sqlite3.Connection, who: str) -> list[Attempt]:
    """Every attempt of a learner, the oldest first."""
    rows = connection.execute(
        f"SELECT {_ATTEMPT} FROM practice_attempt WHERE who = ? ORDER BY begun_at, rowid", (who,)
    )
    return [Attempt(*row) for row in rows]


def attempts_of_set(connection: sqlite3.Connection, set_id: str) -> list[Attempt]:
    """Every attempt that was begun from a set, the oldest first."""
    rows = connection.execute(
        f"SELECT {_ATTEMPT} FROM practice_attempt WHERE asked_by = ? ORDER BY begun_at, rowid",
        (set_id,),
    )
    return [Attempt(*row) for row in rows]


def begin_attempt(connection: sqlite3.Connection, made: Attempt) -> None:
    """Keep a new attempt; one of the same id stays as it is."""
    with transaction(connection):
        connection.execute(
            f"INSERT OR IGNORE INTO practice_attempt ({_ATTEMPT}) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
            (
                made.id, made.who, made.exercise, made.asked_by, made.begun_at, made.ended_at,
                made.acts, made.result,
            ),
        )  # fmt: skip


def keep_acts(
    connection: sqlite3.Connection,
    was: Attempt,
    acts: str,
    ended_at: str | None = None,
) -> bool:
    """Keep what was done; whether nothing else was kept of it meanwhile."""
    with transaction(connection):
        made = connection.execute(
            "UPDATE practice_attempt SET acts = ?, ended_at = ? WHERE id = ? AND acts = ?",
            (acts, ended_at, was.id, was.acts),
        )
    return made.rowcount > 0


def keep_result(connection: sqlite3.Connection, attempt_id: str, result: str) -> None:
    """Keep what an attempt came to."""
    with transaction(connection):
        connection.execute(
            "UPDATE practice_attempt SET result = ? WHERE id = ?", (result, attempt_id)
        )


def own_exercises(connection: sqlite3.Connection) -> list[OwnExercise]:
    """Every exercise from one's own jobs, the newest first."""
    rows = connection.execute(
        "SELECT id, made_at, document FROM practice_own ORDER BY made_at DESC, rowid DESC"
    )
    return [OwnExercise(*row) for row in rows]


def own_exercise(connection: sqlite3.Connection, own_id: str) -> OwnExercise | None:
    """The exercise of this id."""
    row = connection.execute(
        "SELECT id, made_at, document FROM practice_own WHERE id = ?", (own_id,)
    ).fetchone()
    return None if row is None else OwnExercise(*row)


def keep_own(connection: sqlite3.Connection, made: OwnExercise) -> None:
    """Keep an exercise from one's own jobs; one of the same id gives way."""
    with transaction(connection):
        connection.execute(
            "INSERT OR REPLACE INTO practice_own (id, made_at, document) VALUES (?, ?, ?)",
            (made.id, made.made_at, made.document),
        )


def sets(connection: sqlite3.Connection) -> list[ExerciseSet]:
    """Every set, the newest first."""
    rows = connection.execute(
        "SELECT id, name, made_at, made_by, exercises, learners FROM practice_set"
        " ORDER BY made_at DESC, rowid DESC"
    )
    return [
        ExerciseSet(key, name, made_at, made_by, tuple(json.loads(keys)), tuple(json.loads(people)))
        for key, name, made_at, made_by, keys, people in rows
    ]


def keep_set(connection: sqlite3.Connection, made: ExerciseSet) -> None:
    """Keep a set; one of the same id gives way."""
    with transaction(connection):
        connection.execute(
            "INSERT OR REPLACE INTO practice_set (id, name, made_at, made_by, exercises, learners)"
            " VALUES (?, ?, ?, ?, ?, ?)",
            (
                made.id, made.name, made.made_at, made.made_by, json.dumps(made.exercises),
                json.dumps(made.learners),
            ),
        )  # fmt: skip


def drop_set(connection: sqlite3.Connection, set_id: str) -> bool:
    """Take a set out; what was practised from it stays. Whether there was one."""
    with transaction(connection):
        gone = connection.execute("DELETE FROM practice_set WHERE id = ?", (set_id,))
    return gone.rowcount > 0


def lessons(connection: sqlite3.Connection, who: str) -> list[LessonAnswered]:
    """What a learner answered, each lesson's last answer."""
    rows = connection.execute(
        "SELECT lesson, answered_at, is_right FROM practice_lesson WHERE who = ?", (who,)
    )
    return [LessonAnswered(row[0], row[1], bool(row[2])) for row in rows]


def keep_lesson(connection: sqlite3.Connection, who: str, made: LessonAnswered) -> None:
    """Keep a learner's answer; his last one of that lesson gives way."""
    with transaction(connection):
        connection.execute(
            "INSERT OR REPLACE INTO practice_lesson (who, lesson, answered_at, is_right)"
            " VALUES (?, ?, ?, ?)",
            (who, made.lesson, made.answered_at, int(made.right)),
        )


def learners(connection: sqlite3.Connection) -> list[str]:
    """Everybody who practised, by name."""
    rows = connection.execute(
        "SELECT who FROM practice_attempt UNION SELECT who FROM practice_lesson ORDER BY 1"
    )
    return [row[0] for row in rows if row[0]]
