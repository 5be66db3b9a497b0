"""Exercises by their key: those that ship, those of every day, those from one's own jobs."""

import sqlite3
from collections.abc import Sequence
from datetime import date
from threading import Lock

from cachetools import LRUCache, cached

from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.errors import JobError
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.model.jobs import Moment, Reading, Trial
from spare_margin.core.model.limits import Limits
from spare_margin.core.practice.exercise import Exercise
from spare_margin.core.practice.left import Judge
from spare_margin.core.practice.making import LIMIT_SET, daily, exercise
from spare_margin.data.tables import shipped_tables
from spare_margin.exchange.job_file.job_file import read_job
from spare_margin.exchange.practice import own_of
from spare_margin.service.job.judging import Judging
from spare_margin.store import practice as store

OWN = "own-"
FIRST_DAY = date(2026, 1, 1)
TABLES = shipped_tables()
"""Exercises rest on the tables as they ship: the same key makes the same everywhere."""


def exercise_of(connection: sqlite3.Connection, key: str) -> Exercise:
    """The exercise with this key. JobError where there is none."""
    if not key.startswith(OWN):
        return _made(key)
    held = store.own_exercise(connection, key.removeprefix(OWN))
    if held is None:
        raise JobError("exercise", f"there is no {key}", "one of the list")
    return own_exercise(key, held.document)


@cached(LRUCache(128), lock=Lock())
def _made(key: str) -> Exercise:
    return exercise(key, TABLES)


@cached(LRUCache(32), lock=Lock())
def own_exercise(key: str, document: str) -> Exercise:
    """An exercise from its document: its craft as drawn is its truth, but for what was wrong."""
    held = own_of(document)
    craft = read_job(held.wiring.encode()).craft
    return Exercise(
        key, held.level, "", craft, TABLES, held.run, held.symptom, held.hidden,
        dict(closed_ohms(craft, TABLES)), {x.id: 1.0 for x in craft.loads}, 0.0, held.seed,
    )  # fmt: skip


def todays(day: date) -> str:
    """The key of the exercise of a day."""
    return daily((day - FIRST_DAY).days)


def limits() -> Limits:
    """What exercises are held against."""
    return Limits(TABLES.limit_sets[LIMIT_SET], {})


def judge_of(made: Exercise) -> Judge:
    """What says what readings of an exercise mean: the judge of real work, over its drawing."""
    bare = Judging(made.craft, (), (), (), limits(), TABLES)

    def judge(
        readings: Sequence[Reading], moments: Sequence[Moment], trials: Sequence[Trial], run: str
    ) -> Judgement:
        told = Judging(made.craft, readings, moments, trials, limits(), TABLES)
        told.share(bare)
        return told.judge(run)

    return judge
