"""Leads, clamp, lamp and ohmmeter laid on the craft: what each shows, costs, and gives of readings."""

import math
import random
from dataclasses import replace
from typing import Literal

from spare_margin.core.model.jobs import Hold, Reading, ReadingState
from spare_margin.core.model.meters import CLAMP_METER, WORKSHOP_METER

from . import acts as cost
from .acts import Act
from .bench import (
    DIM,
    LEADS_OHM,
    LIT,
    MOST_OHM,
    OFFSET_A,
    OHM_STEP,
    Bench,
    Shown,
    shown_amperes,
    shown_volts,
)
from .played import Played, Told, in_moment, luck_of, only, read


def to_lay(at: Played, *points: str) -> float:
    """Minutes to get the leads there; one that lies there already costs nothing.

    Args:
        at: the exercise as far as it was played.
    """
    held = {at.red, at.black}
    return sum(reach_min(at, p) for p in points if p and p not in held)


def reading_min(at: Played, red: str, black: str) -> float:
    """What a reading between two points would cost now (min).

    Args:
        at: the exercise as far as it was played.
        red: the id of the point that the red lead is on.
        black: the id of the point that the black lead is on.
    """
    return cost.READ_MIN + to_lay(at, red, black)


def reach_min(at: Played, point: str) -> float:
    """What it costs now to get a lead onto a point (min).

    Args:
        at: the exercise as far as it was played.
    """
    access = at.exercise.craft.point(point).access
    return cost.REACH_MIN["open" if point in at.opened else access]


def _laid(at: Played, red: str, black: str) -> Played:
    trims = {p for p in (red, black) if p and at.exercise.craft.point(p).access == "trim"}
    return replace(at, red=red, black=black, opened=at.opened | trims)


def volts(at: Played, done: Act) -> Played:
    """Volts between two points; with a piece moved, or over a start, the least and the most.

    Args:
        at: the exercise as far as it was played.
        done: the act.
    """
    minutes = reading_min(at, done.red, done.black)
    at = _laid(at, done.red, done.black)
    if done.moved or done.start:
        return _held(at, done, minutes)
    bench, rng = Bench(at.exercise, at.state), luck_of(at)
    on_both = bool(done.red and done.black)
    true = bench.volts(bench.solved(at.at_s), done.red, done.black) if on_both else None
    shown = shown_volts(true, done.range_v, rng)
    told = _shown(shown, minutes)
    return read(at, told, _reading(at, done, shown)) if on_both else only(at, told)


def _held(at: Played, done: Act, minutes: float) -> Played:
    """Least and most, kept over a start, or while a piece is moved: a moment of its own."""
    load = at.exercise.run
    starting = frozenset({load}) if done.start else frozenset()
    held = replace(at.state, loads={**at.state.loads, load: "running"}) if done.start else at.state
    bench, rng = Bench(at.exercise, held), luck_of(at)
    ends = [bench.solved(at.at_s), bench.solved(at.at_s, done.moved, starting)]
    values = sorted(
        (bench.volts(s, done.red, done.black) for s in ends),
        key=lambda v: math.inf if v is None else v,
    )
    shown = [shown_volts(v, done.range_v, rng) for v in values]
    told = Told(
        minutes=minutes + (cost.START_MIN if done.start else cost.MOVED_MIN),
        shown=tuple(s.value for s in shown if s.value is not None and not s.wanders),
        accuracy=max(s.accuracy for s in shown),
        state="wandering" if any(s.wanders for s in shown) else "value",
    )
    at = in_moment(replace(at, fresh=True), starting)
    key = f"a{len(at.acts):03d}"
    kept: tuple[Hold, Hold] = ("least", "most")
    made = [
        replace(_reading(at, done, s), id=f"{key}-{hold}", hold=hold, moved=done.moved)
        for hold, s in zip(kept, shown, strict=True)
        if s.value is not None and not s.wanders
    ]
    # What is read next is of a moment in which nothing is held.
    return replace(read(at, told, *(made if len(made) == 2 else [])), fresh=True)


def amperes(at: Played, done: Act) -> Played:
    """The clamp round a piece or a load.

    Args:
        at: the exercise as far as it was played.
        done: the act.
    """
    bench = Bench(at.exercise, at.state)
    shown = clamped(at, bench.amperes(bench.solved(at.at_s), done.element))
    held = at.exercise.craft
    one = next(e for e in (*held.loads, *held.pieces) if e.id == done.element)
    reading = replace(
        _reading(at, done, shown), quantity="amperes", red=one.start, black=one.end,
        meter=CLAMP_METER.name,
    )  # fmt: skip
    return read(at, _shown(shown, cost.CLAMP_MIN), reading)


def clamped(at: Played, true: float) -> Shown:
    """What the clamp shows next.

    Args:
        at: the exercise as far as it was played.
        true: what flows (A).
    """
    if not at.zeroed:
        true += random.Random(at.exercise.seed).uniform(*OFFSET_A)
    return shown_amperes(true, luck_of(at))


def lamp(at: Played, done: Act) -> Played:
    """A test lamp between two points.

    Args:
        at: the exercise as far as it was played.
        done: the act.
    """
    minutes = reading_min(at, done.red, done.black)
    at = _laid(at, done.red, done.black)
    share = Bench(at.exercise, at.state).lamp(at.at_s, done.red, done.black)
    state: Literal["lit", "dim", "dark"] = (
        "lit" if share >= LIT else "dim" if share >= DIM else "dark"
    )
    blank = Shown(None, 0.0, 0.0)
    reading = replace(_reading(at, done, blank), quantity="lamp", value=None, state=state, meter="")
    return read(at, Told(minutes=minutes, state=state), reading)


def ohms(at: Played, done: Act) -> Played:
    """Ohms between two points: nothing but a danger while the power is on.

    Args:
        at: the exercise as far as it was played.
        done: the act.
    """
    minutes = reading_min(at, done.red, done.black)
    at = _laid(at, done.red, done.black)
    if at.state.power:
        return only(at, Told(minutes=minutes, state="wandering", danger="ohms_live"))
    true = Bench(at.exercise, at.state).ohms(done.red, done.black)
    blank = Shown(None, 0.0, 0.0)
    if true > MOST_OHM:
        reading = replace(
            _reading(at, done, blank), quantity="ohms", value=None, state="over_range"
        )
        return read(at, Told(minutes=minutes, state="over_range"), reading)
    value = round((true + LEADS_OHM) / OHM_STEP) * OHM_STEP
    accuracy = 0.01 * value + 2 * OHM_STEP
    reading = replace(
        _reading(at, done, Shown(value, accuracy, OHM_STEP)), quantity="ohms", leads_ohm=LEADS_OHM
    )
    return read(at, Told(minutes=minutes, shown=(value,), accuracy=accuracy), reading)


def zero(at: Played, _: Act) -> Played:
    """The clamp zeroed, its jaws empty.

    Args:
        at: the exercise as far as it was played.
    """
    return only(replace(at, zeroed=True), Told(minutes=cost.ZERO_MIN))


def _shown(shown: Shown, minutes: float) -> Told:
    if shown.wanders:
        return Told(minutes=minutes, state="wandering")
    if shown.value is None:
        return Told(minutes=minutes, state="over_range")
    return Told(minutes=minutes, shown=(shown.value,), accuracy=shown.accuracy)


def _reading(at: Played, done: Act, shown: Shown) -> Reading:
    state: ReadingState = "value"
    if shown.value is None or shown.wanders:
        state = "wandering" if shown.wanders else "over_range"
    joined = at.state.joined
    return Reading(
        id=f"a{len(at.acts):03d}", revision=f"r{at.repairs}", red=done.red, black=done.black,
        value=None if state != "value" else shown.value, state=state,
        typed="" if shown.value is None else str(shown.value), accuracy=shown.accuracy,
        trial=joined.id if joined else None, meter=WORKSHOP_METER.name,
    )  # fmt: skip
