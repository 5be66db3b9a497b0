"""Which stand-in load suits a run: known before anything is unplugged.

A stand-in takes the place of the unplugged load. The smallest excess it can reveal is the doubt of two
readings over its current; it proves a run where that is a third of what the run may have, or less. A weaker
one still condemns: over is over.
"""

import math
from dataclasses import dataclass

from spare_margin.core.budget.run_budget import RunBudget

BULBS_W = (5.0, 10.0, 21.0, 55.0)
"""Usual filament bulbs of 12 V; at 24 V those of twice the watts."""
SHARE = 3.0
"""The allowance must be this many times what can be told."""


@dataclass(frozen=True, slots=True)
class Bulb:
    """A usual bulb: W, A at the nominal voltage, and whether it draws enough."""

    watts: float
    amperes: float
    enough: bool


@dataclass(frozen=True, slots=True)
class Suits:
    """What a stand-in must draw to prove a run (A), what the run may have (ohm), and usual bulbs."""

    wanted_a: float
    wanted_ohm: float
    bulbs: tuple[Bulb, ...]


def least_ohm(amperes: float, accuracy_v: float) -> float:
    """The smallest excess (ohm) that two readings, each good to so much, reveal at a current.

    Args:
        amperes: the current (A).
        accuracy_v: what a reading is good to (V).

    >>> least_ohm(2.5, 0.02)
    0.016
    """
    return 2 * accuracy_v / amperes


def suits(budget: RunBudget, accuracy_v: float, nominal_v: float) -> Suits | None:
    """Which stand-in proves a run; None where it has no ceiling, or nobody knows what its load draws.

    Args:
        budget: what the run may lose, and where.
        accuracy_v: what a reading is good to (V).
        nominal_v: the craft's nominal voltage (V).
    """
    c = budget.ceilings
    least = min((x for x in (c.feed_v, c.return_v, c.round_trip_v) if x is not None), default=None)
    if least is None or not budget.current_a or budget.run.load.behaviour is None:
        return None
    wanted_ohm = least / budget.current_a
    wanted_a = SHARE * least_ohm(1.0, accuracy_v) / wanted_ohm
    return Suits(wanted_a, wanted_ohm, usual_bulbs(nominal_v, wanted_a))


def usual_bulbs(nominal_v: float, wanted_a: float = math.inf) -> tuple[Bulb, ...]:
    """Usual bulbs at a nominal voltage, against what is wanted (A); by default none is known to do.

    Args:
        nominal_v: the craft's nominal voltage (V).
        wanted_a: the current that is wanted (A).

    >>> [(bulb.watts, round(bulb.amperes, 2), bulb.enough) for bulb in usual_bulbs(24.0, 1.0)][1:3]
    [(20.0, 0.83, False), (42.0, 1.75, True)]
    """
    times = nominal_v / 12.0
    return tuple(Bulb(watts * times, watts / 12.0, watts / 12.0 >= wanted_a) for watts in BULBS_W)
