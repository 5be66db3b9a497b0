"""What one reading means the moment it is typed, before it is kept and weighed with the others."""

from dataclasses import dataclass
from typing import Literal

from spare_margin.core.measure.verdicts import verdict

from .walk import Expectation, Measurement

Code = Literal[
    "draws_nothing",
    "draws_little",
    "draws_much",
    "draws",
    "impossible",
    "reversed",
    "source_gone",
    "source_low",
    "source_good",
    "open_loop",
    "loop_within",
    "loop_close",
    "loop_over",
    "loop_unjudged",
    "turned",
    "needs_current",
    "drop_within",
    "drop_close",
    "drop_over",
    "drop_open",
    "drop_whole",
    "plain",
]
NO_CURRENT_A = 0.02
"""A clamp that shows less than this shows nothing."""
LITTLE, MUCH = 0.6, 1.4
"""A current outside these shares of what the load should draw is told of."""
ABOVE_SOURCE = 1.06
"""No point stands above the source by more than a meter and its leads are off."""
GONE, LOW = 0.5, 0.98
"""A source below these shares of its nominal voltage is gone, or low."""
NOTHING = 0.1
"""A load that sees less than this share of the source sees nothing."""
MOST_OF_IT = 0.9
"""A drop of this share of the source is an open way; where current flows, leads on other points."""
TURNED_V = 0.03
"""Less than this below zero is the meter's own nothing (V)."""


@dataclass(frozen=True, slots=True)
class Meaning:
    """What a reading means: a code, and the volts or amperes by which.

    `by` is how far over, how much is left, or what was lost, as the code says (V or A).
    """

    code: Code
    by: float = 0.0


def meaning(
    each: Measurement,
    value: float,
    doubt: float,
    likely: Expectation | None,
    nominal_v: float,
    source_v: float | None,
    loaded: bool | None,
) -> Meaning:
    """What a value typed for a measurement means by itself.

    Args:
        value, doubt: V, or A for a current; the half-width it may be off.
        likely: what was to be expected.
        source_v: what the source was read at.
        loaded: whether current is known to flow; None where nothing says.
        each: the measurement.
        nominal_v: the craft's nominal voltage (V).
    """
    if each.kind == "current":
        return _current(abs(value), likely)
    top = _top_v(each, nominal_v, source_v)
    if abs(value) > ABOVE_SOURCE * top + doubt:
        return Meaning("impossible", abs(value) - top)
    match each.kind:
        case "source":
            return _source(value, nominal_v)
        case "load":
            return _loop(value, doubt, likely, source_v)
    return _drop(value, doubt, likely, nominal_v, source_v, loaded)


def most_v(each: Measurement, nominal_v: float, source_v: float | None) -> float:
    """The most volts that there can be over a measurement: what is above it was read otherwise.

    Args:
        each: what is measured.
        nominal_v: the craft's nominal voltage (V).
        source_v: what the source was read at (V); None where it was not.
    """
    return ABOVE_SOURCE * _top_v(each, nominal_v, source_v)


def _top_v(each: Measurement, nominal_v: float, source_v: float | None) -> float:
    if each.kind == "source":
        return 1.35 * nominal_v
    return source_v if source_v is not None else 1.3 * nominal_v


def _current(amps: float, likely: Expectation | None) -> Meaning:
    if amps < NO_CURRENT_A:
        return Meaning("draws_nothing")
    if likely is not None and likely.likely:
        share = amps / likely.likely
        if share < LITTLE:
            return Meaning("draws_little", likely.likely - amps)
        if share > MUCH:
            return Meaning("draws_much", amps - likely.likely)
    return Meaning("draws", amps)


def _source(value: float, nominal_v: float) -> Meaning:
    if value < -0.5 * nominal_v:
        return Meaning("reversed")
    if value < GONE * nominal_v:
        return Meaning("source_gone")
    return Meaning("source_low" if value < LOW * nominal_v else "source_good", value)


def _loop(
    value: float, doubt: float, likely: Expectation | None, source_v: float | None
) -> Meaning:
    """Volts across the load, against the source."""
    if source_v is None:
        return Meaning("loop_unjudged", value)
    if abs(value) < NOTHING * source_v:
        return Meaning("open_loop")
    lost = source_v - abs(value)
    if likely is None or likely.high != source_v:
        return Meaning("loop_unjudged", lost)
    allowed = source_v - likely.low
    match verdict(lost, doubt, allowed):
        case "over":
            return Meaning("loop_over", lost - allowed)
        case "within":
            return Meaning("loop_within", allowed - lost)
    return Meaning("loop_close", lost)


def _drop(
    value: float, doubt: float, likely: Expectation | None, nominal_v: float,
    source_v: float | None, loaded: bool | None,
) -> Meaning:  # fmt: skip
    """Volts lost over a side or a span, against what it may lose."""
    if loaded and abs(value) > MOST_OF_IT * (source_v or nominal_v):
        return Meaning("drop_whole")
    if source_v is not None and abs(value) > MOST_OF_IT * source_v:
        return Meaning("drop_open")
    if likely is None or likely.allowed is None:
        return Meaning("plain", value)
    if value < -max(TURNED_V, doubt):
        return Meaning("turned", -value)
    allowed = likely.allowed
    told = verdict(abs(value), doubt, allowed)
    if told == "over":
        return Meaning("drop_over", abs(value) - allowed)
    if loaded is not True:
        return Meaning("needs_current")
    return Meaning("drop_within" if told == "within" else "drop_close", allowed - abs(value))
