"""Conductors that stand in the same lines, one behind the other, as one choice: their best trades.

What such a stretch costs against what it loses is a front: a choice of sizes that costs more and
loses no less than another is never needed. A stretch of four wires of fifteen sizes each has 50,625
choices, of which some forty are on the front.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.columns import Floats

from .lines import LimitLine

MOST_TRADES = 400
"""A stretch of more trades than this is kept apart: comparing them would take longer than choosing."""
ALIKE = 1e-12
"""Columns of figures that differ by no more than rounding, as a share."""


@dataclass(frozen=True, slots=True)
class UnitGroup:
    """Units chosen together: `picks` (K, units) are the places of their sizes in each of K trades.

    `volts` (K, lines) is what a trade loses in each of its lines (`lines` are their numbers).
    """

    units: tuple[int, ...]
    picks: NDArray[np.intp]
    costs: Floats
    lines: NDArray[np.intp]
    volts: Floats

    def only(self, kept: NDArray[np.bool_]) -> "UnitGroup":
        """With some of its trades.

        Args:
            kept: whether each trade is kept, (trades,).
        """
        return UnitGroup(
            self.units, self.picks[kept], self.costs[kept], self.lines, self.volts[kept]
        )


def stretches_of(costs: Sequence[Sequence[float]], lines: Sequence[LimitLine]) -> list[UnitGroup]:
    """The units as stretches: those that stand in the same lines together.

    `costs` are the costs of each unit's sizes.
    """
    standing: dict[int, list[int]] = {n: [] for n in range(len(costs))}
    for number, line in enumerate(lines):
        for unit in line.volts:
            standing[unit].append(number)
    together: dict[tuple[int, ...], list[int]] = {}
    for unit, own in standing.items():
        together.setdefault(tuple(own), []).append(unit)
    out: list[UnitGroup] = []
    for lines_of_all, units in together.items():
        held: UnitGroup | None = None
        for unit in units:
            one = _alone(unit, costs[unit], lines_of_all, lines)
            both = None if held is None else _joined(held, one)
            if held is not None and (both is None or len(both.costs) > MOST_TRADES):
                out.append(held)
                both = None
            held = both or one
        if held is not None:
            out.append(held)
    return out


def _alone(
    unit: int, costs: Sequence[float], own: tuple[int, ...], lines: Sequence[LimitLine]
) -> UnitGroup:
    count = len(costs)
    volts = np.zeros((count, len(own)))
    for column, number in enumerate(own):
        volts[:, column] = lines[number].volts[unit]
    made = UnitGroup(
        (unit,),
        np.arange(count, dtype=np.intp).reshape(-1, 1),
        np.array(costs, dtype=float),
        np.array(own, dtype=np.intp),
        volts,
    )
    return made.only(_front(made.costs, made.volts))


def _joined(a: UnitGroup, b: UnitGroup) -> UnitGroup | None:
    """Every trade of one with every trade of the other, as far as it is on the front."""
    if len(a.costs) * len(b.costs) > 100 * MOST_TRADES:
        return None
    i, j = (x.ravel() for x in np.indices((len(a.costs), len(b.costs))))
    picks = np.hstack([a.picks[i], b.picks[j]])
    both = UnitGroup(
        (*a.units, *b.units), picks, a.costs[i] + b.costs[j], a.lines, a.volts[i] + b.volts[j]
    )
    return both.only(_front(both.costs, both.volts))


def _front(costs: Floats, volts: Floats) -> NDArray[np.bool_]:
    """Which trades are not beaten: none costs as little and loses as little in every line."""
    told = _independent(volts)
    order = np.lexsort((*told.T, costs))
    kept = np.zeros(len(costs), dtype=bool)
    if told.shape[1] <= 1:
        level = np.inf
        lost = told[:, 0] if told.shape[1] else np.zeros(len(costs))
        for i in order:
            if lost[i] < level:
                kept[i], level = True, lost[i]
        return kept
    best: list[Floats] = []
    for i in order:
        if not best or not bool((np.array(best) <= told[i]).all(axis=1).any()):
            kept[i] = True
            best.append(told[i])
    return kept


def _independent(volts: Floats) -> Floats:
    """The lines that tell trades apart: of those that are in proportion to one another, one."""
    columns: list[Floats] = []
    shapes: list[Floats] = []
    for column in volts.T:
        size = float(column.max(initial=0.0))
        if size <= 0:
            continue
        shape = column / size
        if not any(bool(np.allclose(shape, s, rtol=ALIKE, atol=0)) for s in shapes):
            shapes.append(shape)
            columns.append(column)
    return np.array(columns).T if columns else np.zeros((len(volts), 0))
