"""What an attempt came to, in the few figures that progress is told by."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from .debrief import Debrief, Habit, Outcome, kind_of
from .exercise import Level


@dataclass(frozen=True, slots=True, kw_only=True)
class Result:
    """What an attempt came to. `kinds` are what was truly wrong, `found` those of them put right.

    `shortest_min` is what somebody takes who knows no more than he reads; `lucky` counts claims that were
    right though the readings did not carry them.
    """

    level: Level
    outcome: Outcome
    right: bool
    minutes: float
    shortest_min: float
    price: float
    needless_price: float
    kinds: tuple[str, ...]
    found: tuple[str, ...]
    habits: tuple[Habit, ...]
    lucky: int
    acts: int


def result_of(told: Debrief) -> Result:
    """What a debrief comes to.

    Args:
        told: the debrief.
    """
    exercise = told.exercise
    mended = {r.claim.element for r in told.rests if r.true}
    return Result(
        level=exercise.level, outcome=told.outcome, right=told.right, minutes=told.minutes,
        shortest_min=told.shortest.minutes, price=told.price, needless_price=told.needless[1],
        kinds=tuple(kind_of(exercise, h) for h in exercise.hidden),
        found=tuple(kind_of(exercise, h) for h in exercise.hidden if h.element in mended),
        habits=told.habits, lucky=sum(r.rested == "lucky" for r in told.rests),
        acts=len(told.steps),
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class LevelProgress:
    """How a learner stands on one level: ended, right, and lately his minutes against the shortest."""

    level: Level
    ended: int
    right: int
    times_shortest: float | None


@dataclass(frozen=True)
class Progress:
    """How a learner stands.

    Attributes:
        kinds: by kind of fault, how many were there and how many he found.
        habits: what costs, by how many of the last attempts it was seen in; the most frequent first.
        lucky: right guesses that no reading carried.
        times: minutes of each attempt that was right, against the shortest way, in order.
    """

    levels: tuple[LevelProgress, ...]
    kinds: Mapping[str, tuple[int, int]]
    habits: tuple[tuple[Habit, int], ...]
    lucky: int
    times: tuple[float, ...]
    ended: int


RECENT = 12
"""Habits are those of so many attempts: what somebody did long ago he may do no more."""
FEW = 3


def progress(results: Sequence[Result]) -> Progress:
    """How a learner stands by what his attempts came to, in their order.

    Args:
        results: what the attempts came to, in order.
    """
    levels = tuple(
        _level(level, [r for r in results if r.level == level])
        for level in sorted({r.level for r in results})
    )
    kinds: dict[str, tuple[int, int]] = {}
    for result in results:
        found = Counter(result.found)
        for kind, count in Counter(result.kinds).items():
            there, had = kinds.get(kind, (0, 0))
            kinds[kind] = there + count, had + found[kind]
    recent = results[-RECENT:]
    habits = Counter(h for r in recent for h in r.habits)
    return Progress(
        levels, kinds, tuple(habits.most_common()), sum(r.lucky for r in results),
        tuple(r.minutes / max(r.shortest_min, 1.0) for r in results if r.right), len(results),
    )  # fmt: skip


def _level(level: Level, results: Sequence[Result]) -> LevelProgress:
    right = [r for r in results if r.right]
    last = right[-FEW:]
    times = sum(r.minutes for r in last) / max(sum(r.shortest_min for r in last), 1.0)
    return LevelProgress(level, len(results), len(right), times if last else None)
