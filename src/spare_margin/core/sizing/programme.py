"""The choice itself: a mixed-integer linear programme over the trades of every stretch.

One binary for each trade; exactly one trade a stretch; every line kept; least cost. Solved by HiGHS
through SciPy's `milp` (branch and cut; Q. Huangfu and J. A. J. Hall, *Parallelizing the dual revised
simplex method*, Math. Prog. Comp. 10, 2018). Before that its linear relaxation gives a bound, and with a
choice found near it, each trade whose reduced cost alone would pass that choice's cost is left out: it
stands in no better one (G. L. Nemhauser and L. A. Wolsey, *Integer and Combinatorial Optimization*,
1988, II.5).
"""

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_array, vstack

from spare_margin.core.columns import Floats
from spare_margin.core.least import ROUNDING

from .fronts import UnitGroup

Picked = tuple[int, ...]
"""The place of the trade taken in each stretch."""
FIRST_LOOK_S, FIRST_SLICE_S, LEAST_SLICE_S = 0.5, 1.0, 0.05
"""Seconds: until it is told for the first time, of the first slice, of the shortest one."""
FEW = 3
"""Of each stretch the trades nearest to the bound that are looked at first."""
INFEASIBLE = 2
"""SciPy's status of a programme that nothing solves."""


@dataclass(frozen=True, slots=True)
class Best:
    """The best choice found, its cost, and the cost below which there is none."""

    picked: Picked
    cost: float
    bound: float


@dataclass(frozen=True, slots=True)
class Effort:
    """How long to look for the best (s), and who is told meanwhile.

    `told` gets the best cost so far (None: none yet) and the bound, and answers whether to go on.
    """

    seconds: float = 10.0
    told: Callable[[float | None, float], bool] | None = None


@dataclass(frozen=True, slots=True)
class _Found:
    """What a search of some trades found, the cost below which they hold nothing, whether it ended."""

    picked: Picked | None
    bound: float
    done: bool


class Programme:
    """The trades of some stretches under some lines: `left` is what each line allows (V)."""

    def __init__(self, stretches: Sequence[UnitGroup], left: Floats) -> None:
        self.stretches, self.left = list(stretches), left
        sizes = [len(s.costs) for s in self.stretches]
        self.first = np.concatenate([[0], np.cumsum(sizes)]).astype(np.intp)
        self.costs = np.concatenate([s.costs for s in self.stretches] or [np.zeros(0)])
        scale = np.where(left > 0, left, 1.0)
        rows, columns, values = [], [], []
        for n, stretch in enumerate(self.stretches):
            i, j = np.nonzero(stretch.volts)
            rows.append(stretch.lines[j])
            columns.append(self.first[n] + i)
            values.append(stretch.volts[i, j] / scale[stretch.lines[j]])
        shape = (len(left), len(self.costs))
        at = (np.concatenate([*rows, []]).astype(int), np.concatenate([*columns, []]).astype(int))
        self.lines = csr_array((np.concatenate([*values, []]), at), shape=shape)
        self.most = left / scale
        owner = np.repeat(np.arange(len(sizes)), sizes)
        self.owner = owner
        ones = (np.ones(len(owner)), (owner, np.arange(len(owner))))
        self.one_each = csr_array(ones, shape=(len(sizes), len(owner)))
        self.cuts: list[NDArray[np.intp]] = []

    def without(self, picked: Picked) -> None:
        """This very choice is not wanted again.

        Args:
            picked: the place of each choice that was picked.
        """
        self.cuts.append(self.first[:-1] + np.array(picked, dtype=np.intp))

    def keeps(self, picked: Picked) -> bool:
        """Whether a choice keeps every line, and is none of those not wanted.

        Args:
            picked: the place of each choice that was picked.
        """
        x = self._x(picked)
        if any(int(x[cut].sum()) == len(cut) for cut in self.cuts):
            return False
        return bool((self.lines @ x <= self.most + ROUNDING).all())

    def cost(self, picked: Picked) -> float:
        """What a choice costs.

        Args:
            picked: the place of each choice that was picked.
        """
        return float(self._x(picked) @ self.costs)

    def _x(self, picked: Picked) -> Floats:
        x = np.zeros(len(self.costs))
        x[self.first[:-1] + np.array(picked, dtype=np.intp)] = 1.0
        return x

    def best(self, effort: Effort, known: Picked | None = None) -> Best | None:
        """The cheapest choice, with a bound that says how good it is; None where none keeps the lines.

        `known` is a choice to start from; the better of the two is given.

        Args:
            effort: how long it may take.
        """
        if not self.stretches:
            return Best((), 0.0, 0.0)
        began = time.monotonic()
        relaxed = self._relaxed()
        if relaxed is None:
            return None
        x, bound, reduced = relaxed
        starts = [p for p in (self._rounded(x), known) if p is not None and self.keeps(p)]
        near = self._few(x, reduced)
        if not bool(near.all()):
            found = self._milp(near, FIRST_LOOK_S)
            if found is not None and found.picked is not None:
                starts.append(found.picked)
        start = min(starts, key=self.cost, default=None)
        kept = np.ones(len(self.costs), dtype=bool)
        if start is not None:
            gap = self.cost(start) - bound
            kept = reduced <= gap + ROUNDING * max(1.0, self.cost(start))
            kept[self.first[:-1] + np.array(start, dtype=np.intp)] = True
        return self._searched(effort, began, start, bound, kept)

    def _few(self, x: Floats, reduced: Floats) -> NDArray[np.bool_]:
        """The few trades of each stretch that the relaxed choice takes, or would take next."""
        near = x > ROUNDING
        for a, b in pairwise(self.first):
            near[a + np.argsort(reduced[a:b], kind="stable")[:FEW]] = True
        return near

    def _searched(
        self, effort: Effort, began: float, best: Picked | None, bound: float,
        kept: NDArray[np.bool_],
    ) -> Best | None:  # fmt: skip
        """Branch and cut; in slices of time, each three times the one before, where somebody is told."""
        allowed = effort.seconds if effort.told is None else FIRST_SLICE_S
        while True:
            left = effort.seconds - (time.monotonic() - began)
            found = self._milp(kept, max(min(allowed, left), LEAST_SLICE_S))
            if found is None:
                # Nothing among what was kept; what was left out stands in no better choice.
                return None if best is None else Best(best, self.cost(best), self.cost(best))
            if found.picked is not None:
                if not self.keeps(found.picked):  # kept only within the solver's own rounding
                    self.without(found.picked)
                    continue
                if best is None or self.cost(found.picked) < self.cost(best):
                    best = found.picked
            bound = max(bound, found.bound)
            cost = None if best is None else self.cost(best)
            if cost is not None:
                bound = min(bound, cost)
                if found.done or _near(cost, bound):
                    bound = cost
            over = time.monotonic() - began >= effort.seconds
            go_on = effort.told is None or effort.told(cost, bound)
            if bound == cost or over or not go_on:
                return None if best is None else Best(best, self.cost(best), bound)
            allowed *= 3

    def _milp(self, kept: NDArray[np.bool_], seconds: float) -> "_Found | None":
        """The programme over some trades, for so long; None where none of them keeps the lines.

        What is asked for is not "which trade" but "at least this dear a one": whether a stretch takes the
        k-th of its trades or a dearer one. Either answer then rules out half a stretch, where "not this
        trade" rules out one.
        """
        at = np.flatnonzero(kept)
        at = at[np.lexsort((self.costs[at], self.owner[at]))]
        owner = self.owner[at]
        first = np.concatenate([[True], owner[1:] != owner[:-1]])
        asked = np.cumsum(~first) - 1
        count = int((~first).sum())
        cheapest = first.astype(float)
        goes_on = np.concatenate([~first[1:], [False]])
        own, on = np.flatnonzero(~first), np.flatnonzero(goes_on)
        from scipy.optimize import Bounds, LinearConstraint, milp  # noqa: PLC0415 - see _relaxed

        trade = csr_array(
            (
                np.concatenate([np.ones(len(own)), -np.ones(len(on))]),
                (np.concatenate([own, on]), np.concatenate([asked[own], asked[on + 1]])),
            ),
            shape=(len(at), count),
        )
        matrix, most = self._kept_lines()
        matrix = matrix[:, at]
        rules = [LinearConstraint(matrix @ trade, -np.inf, most - matrix @ cheapest)]
        chain = np.flatnonzero(~first & goes_on)
        if len(chain):
            rows = np.arange(len(chain))
            rising = csr_array(
                (
                    np.concatenate([np.ones(len(chain)), -np.ones(len(chain))]),
                    (
                        np.concatenate([rows, rows]),
                        np.concatenate([asked[chain + 1], asked[chain]]),
                    ),
                ),
                shape=(len(chain), count),
            )
            rules.append(LinearConstraint(rising, -np.inf, 0.0))
        base = float(self.costs[at] @ cheapest)
        if count == 0:
            whole = np.zeros(len(self.costs))
            whole[at] = cheapest
            picked = self._picked(whole)
            return _Found(picked, base, True) if self.keeps(picked) else None
        found = milp(
            trade.T @ self.costs[at],
            integrality=np.ones(count, dtype=int),
            bounds=Bounds(0, 1),
            constraints=rules,
            options={"time_limit": seconds, "mip_rel_gap": 0.0},
        )
        if found.status == INFEASIBLE:
            return None
        bound = -np.inf if found.mip_dual_bound is None else found.mip_dual_bound + base
        if found.x is None:
            return _Found(None, bound, False)
        whole = np.zeros(len(self.costs))
        whole[at] = trade @ found.x + cheapest
        return _Found(self._picked(whole), bound, found.status == 0)

    def _kept_lines(self) -> tuple[csr_array, Floats]:
        """Every line, and the choices that are not wanted again as lines."""
        if not self.cuts:
            return self.lines, self.most
        cut = np.zeros((len(self.cuts), len(self.costs)))
        for row, at in enumerate(self.cuts):
            cut[row, at] = 1.0
        most = np.concatenate([self.most, [len(at) - 1.0 for at in self.cuts]])
        return vstack([self.lines, csr_array(cut)]).tocsr(), most

    def _relaxed(self) -> tuple[Floats, float, Floats] | None:
        """The linear relaxation: its choice, its cost, each trade's reduced cost; None: impossible."""
        matrix, most = self._kept_lines()
        # Only who sizes a craft waits the fifth of a second that SciPy's optimisers take to load.
        from scipy.optimize import linprog  # noqa: PLC0415

        found = linprog(  # type: ignore[call-overload]
            self.costs, A_ub=matrix, b_ub=most, A_eq=self.one_each,
            b_eq=np.ones(len(self.stretches)), bounds=(0, None), method="highs",
        )  # fmt: skip
        if found.x is None:
            return None
        reduced = (
            self.costs
            - matrix.T @ found.ineqlin.marginals
            - self.one_each.T @ found.eqlin.marginals
        )
        return found.x, float(found.fun), np.maximum(reduced, 0.0)

    def _picked(self, x: Floats) -> Picked:
        return tuple(int(x[a:b].argmax()) for a, b in pairwise(self.first))

    def _rounded(self, x: Floats) -> Picked | None:
        """A choice near a relaxed one: what it took partly, rounded to the thick side, then thinned."""
        picked = []
        for stretch, (a, b) in zip(self.stretches, pairwise(self.first), strict=True):
            part = np.flatnonzero(x[a:b] > ROUNDING)
            lost = stretch.volts[part].sum(axis=1)
            picked.append(int(part[lost.argmin()]) if len(part) else int(x[a:b].argmax()))
        if not self.keeps(tuple(picked)):
            return None
        return self._thinned(picked)

    def _thinned(self, picked: list[int]) -> Picked:
        """Every stretch as cheap as the others let it be, what saves most first."""
        spent = self.lines @ self._x(tuple(picked))
        dense = [s.volts for s in self.stretches]
        scale = np.where(self.left > 0, self.left, 1.0)
        while True:
            moves = []
            for n, stretch in enumerate(self.stretches):
                here = picked[n]
                own = stretch.lines
                room = self.most[own] - spent[own] + ROUNDING
                more = (dense[n] - dense[n][here]) / scale[own]
                fits = (more <= room).all(axis=1) & (stretch.costs < stretch.costs[here] - ROUNDING)
                if fits.any():
                    to = int(np.where(fits, stretch.costs, np.inf).argmin())
                    moves.append((stretch.costs[to] - stretch.costs[here], n, to))
            moves = [m for m in moves if not self._cut(picked, m[1], m[2])]
            if not moves:
                return tuple(picked)
            _, n, to = min(moves)
            own = self.stretches[n].lines
            spent[own] += (dense[n][to] - dense[n][picked[n]]) / scale[own]
            picked[n] = to

    def _cut(self, picked: list[int], n: int, to: int) -> bool:
        if not self.cuts:
            return False
        moved = [*picked[:n], to, *picked[n + 1 :]]
        return not self.keeps(tuple(moved))


def _near(cost: float, bound: float) -> bool:
    """Whether a bound proves a cost: HiGHS ends within its own rounding of it."""
    return cost - bound <= 1e-6 * max(1.0, abs(cost))
