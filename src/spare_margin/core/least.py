"""What rounding leaves: it must not choose among equals, nor tell over from within."""

from collections.abc import Callable, Iterable
from typing import TypeVar

Thing = TypeVar("Thing")
ROUNDING = 1e-9
"""Figures (V, A, or shares of one) that differ by less are one figure: the same sum in another order."""


def first_least(things: Iterable[Thing], value: Callable[[Thing], float]) -> Thing:
    """The first whose value is least, to within what rounding leaves. ValueError where there is none.

    Args:
        things: what to choose from.

    >>> volts = {"rested": 0.3, "charging": 0.1 + 0.2 - 1e-16, "tired": 0.5}
    >>> first_least(volts, volts.__getitem__)
    'rested'
    """
    values = [(thing, value(thing)) for thing in things]
    least = min(each for _, each in values)
    return next(thing for thing, each in values if each <= least + ROUNDING)
