"""The faults that are weighed against one another: which, how large, how probable before any reading."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.model.odds import Odds
from spare_margin.core.model.pieces import Craft, FixedPiece

Floats = NDArray[np.float64]
FaultKind = Literal["none", "excess_resistance", "open", "load"]
OPEN_OHM = 1e6
"""An open piece still lets a voltmeter feel what lies behind it."""
LEAST_V, MOST_V, SIZES = 0.02, 40.0, 22
"""Excess resistances are tried that would take these volts at the current that flows now."""
NO_CURRENT_A = 0.05
"""Below this a current tells no size of a resistance (A)."""
LOAD_TIMES = tuple(float(t) for t in np.geomspace(0.12, 6.0, 12))
"""What a faulty load may draw, in times of what it should."""
SINCE_SHARE = 0.15
"""How much rarer a fault is that comes with warming up than one that is always there."""


@dataclass(frozen=True, slots=True)
class FaultClass:
    """One element and what is wrong with it, whatever the size.

    `since` is the key of the conditions from which on it stands; None where it always does. `beside`
    is a fault that stands besides, where two are weighed at once.
    """

    element: str | None
    kind: FaultKind
    since: str | None = None
    beside: "FaultClass | None" = None

    @property
    def elements(self) -> frozenset[str]:
        """Every element it blames."""
        own = frozenset({self.element} if self.element else ())
        return own if self.beside is None else own | self.beside.elements


@dataclass(frozen=True, slots=True)
class Sizes:
    """The sizes tried of a class: ohms (infinity: open), or times of a load's current.

    `cell` is the standard deviation of the logarithm within one step; 0 where there is no size.
    """

    values: Floats
    cell: float


def excess_sizes(amps: float, excused_ohm: float = 0.0) -> Sizes:
    """Extra ohms in a branch that now carries this current (A), a step each; more than is excused.

    Args:
        amps: the current (A).
        excused_ohm: what is no fault yet (ohm).

    >>> excess_sizes(5.0).values[[0, -1]].round(4).tolist()
    [0.004, 8.0]
    """
    at = max(abs(amps), NO_CURRENT_A)
    least, most = max(LEAST_V / at, excused_ohm), MOST_V / at
    values = np.geomspace(least, max(most, 10 * least), SIZES)
    step = math.log(values[-1] / values[0]) / (SIZES - 1)
    return Sizes(values, step / math.sqrt(12))


OPEN = Sizes(np.array([math.inf]), 0.0)
NO_SIZE = Sizes(np.zeros(1), 0.0)


def load_sizes() -> Sizes:
    """Times of its current that a faulty load may draw."""
    step = math.log(LOAD_TIMES[-1] / LOAD_TIMES[0]) / (len(LOAD_TIMES) - 1)
    return Sizes(np.array(LOAD_TIMES), step / math.sqrt(12))


def prior(craft: Craft, classes: Sequence[FaultClass], odds: Odds) -> Floats:
    """How probable each class is before any reading, by how often its kind fails; sums to one.

    Args:
        craft: the wiring.
        classes: the faults that may be.
        odds: how often each kind fails.
    """
    pieces = {p.id: p for p in craft.pieces}
    loads = {x.id for x in craft.loads}
    weights = []
    for each in classes:
        if each.element is None:
            weights.append(odds.of("none")[0])
            continue
        piece = pieces.get(each.element)
        if piece is not None:
            style = (piece.style or "") if isinstance(piece, FixedPiece) else ""
            excess, opened = odds.of(piece.kind, style)
            weight = opened if each.kind == "open" else excess
        elif each.element in loads:
            excess, opened = odds.of("load")
            weight = opened if each.kind == "open" else excess
        else:
            weight = odds.of("source")[0]
        weights.append(weight * (SINCE_SHARE if each.since else 1.0))
    made: Floats = np.array(weights) / sum(weights)
    return made


def suspects_of(
    pieces: Iterable[str], sources: Iterable[str], loads: Iterable[str], since: Sequence[str]
) -> list[FaultClass]:
    """Every class of faults of these elements, nothing wrong first.

    Args:
        pieces: ids of the pieces.
        sources: ids of the sources.
        loads: ids of the loads.
        since: ids of what was worked on lately.
    """
    out = [FaultClass(None, "none")]
    for key in pieces:
        out += [FaultClass(key, "excess_resistance"), FaultClass(key, "open")]
        out += [FaultClass(key, "excess_resistance", at) for at in since]
    out += [FaultClass(key, "excess_resistance") for key in sources]
    for key in loads:
        out += [FaultClass(key, "load"), FaultClass(key, "open")]
    return out
