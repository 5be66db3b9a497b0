"""Attempts: begun, played act by act, ended; each learner sees his own alone."""

import sqlite3
from dataclasses import dataclass, replace
from threading import Lock

from cachetools import LRUCache

from spare_margin.core.errors import JobError
from spare_margin.core.practice.acts import Act
from spare_margin.core.practice.debrief import Debrief, debrief
from spare_margin.core.practice.exercise import Exercise
from spare_margin.core.practice.played import Played
from spare_margin.core.practice.playing import act, played
from spare_margin.core.practice.result import Result, result_of
from spare_margin.exchange.practice import acts_of, acts_text, result_from, result_text
from spare_margin.service.errors import Conflict, NotThere
from spare_margin.service.job.revising import now
from spare_margin.service.practice.exercises import exercise_of, judge_of
from spare_margin.store import practice as store
from spare_margin.store.practice import Attempt

NOT_YOURS = "There is no such exercise of yours; it may have been begun under another name."
_lock = Lock()
_played: LRUCache[tuple[str, ...], Played] = LRUCache(64)
_debriefs: LRUCache[tuple[str, ...], Debrief] = LRUCache(32)


@dataclass(frozen=True)
class Opened:
    """An attempt with what came of it so far."""

    attempt: Attempt
    exercise: Exercise
    at: Played


def begin(
    connection: sqlite3.Connection, attempt_id: str, who: str, key: str, asked_by: str = ""
) -> Opened:
    """Begin an exercise; sent twice it is begun once. JobError for one that there is not."""
    if not who:
        raise JobError("who", "is empty", "the name of whoever practises")
    exercise_of(connection, key)
    store.begin_attempt(
        connection, Attempt(attempt_id, who, key, asked_by, now(), None, "[]", None)
    )
    return opened(connection, attempt_id, who)


def opened(connection: sqlite3.Connection, attempt_id: str, who: str) -> Opened:
    """An attempt of a learner. NotThere where it is none of his."""
    held = store.attempt(connection, attempt_id)
    if held is None or held.who != who:
        raise NotThere(NOT_YOURS)
    made = exercise_of(connection, held.exercise)
    return Opened(held, made, _at(held, made))


def _at(held: Attempt, made: Exercise) -> Played:
    """What came of the acts so far: worked out from the last known act on."""
    with _lock:
        at = _played.get(_key(held))
    if at is None:
        at = played(made, acts_of(held.acts))
        _remember(held, at)
    return at


def _remember(held: Attempt, at: Played) -> None:
    with _lock:
        _played[_key(held)] = at


def _key(held: Attempt) -> tuple[str, ...]:
    return held.id, held.exercise, held.acts


def do(connection: sqlite3.Connection, before: Opened, number: int, done: Act) -> Opened:
    """One act more, the `number`-th from 0; one that is there already is not done twice.

    Raises:
        JobError: the act is none that can be done now.
        Conflict: other acts were done meanwhile, on another device.
    """
    at = before.at
    if number < len(at.acts) and at.acts[number] == done:
        return before
    if number != len(at.acts):
        raise Conflict("This exercise went on elsewhere meanwhile. It is shown as it stands now.")
    after = act(at, done)
    ended = now() if after.ended else None
    text = acts_text(after.acts)
    if not store.keep_acts(connection, before.attempt, text, ended):
        raise Conflict("This exercise went on elsewhere meanwhile. It is shown as it stands now.")
    held = replace(before.attempt, acts=text, ended_at=ended)
    _remember(held, after)
    return Opened(held, before.exercise, after)


def debriefed(made: Opened) -> Debrief:
    """The debrief of an attempt that has ended. JobError before."""
    if not made.at.ended:
        raise JobError("attempt", "has not ended yet", "a conclusion, then hand over")
    key = _key(made.attempt)
    with _lock:
        told = _debriefs.get(key)
    if told is None:
        told = debrief(made.at, judge_of(made.exercise))
        with _lock:
            _debriefs[key] = told
    return told


def came_to(connection: sqlite3.Connection, held: Attempt) -> Result | None:
    """What an attempt came to; worked out once, when it is first asked for after its end."""
    if held.ended_at is None:
        return None
    if held.result is None:
        told = debriefed(opened(connection, held.id, held.who))
        held = replace(held, result=result_text(result_of(told)))
        store.keep_result(connection, held.id, held.result or "")
    return result_from(held.result or "")


def results(connection: sqlite3.Connection, who: str) -> list[Result]:
    """What a learner's attempts came to, in the order they ended."""
    ended = [a for a in store.attempts(connection, who) if a.ended_at is not None]
    ended.sort(key=lambda a: a.ended_at or "")
    return [r for a in ended if (r := came_to(connection, a)) is not None]
