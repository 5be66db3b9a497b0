"""Volts between points as difference constraints: the tightest bound is a shortest path.

A reading x, good to d, says v(red) - v(black) <= x + d and v(black) - v(red) <= d - x; a piece along
which volts only fall says v(exit) - v(entry) <= 0. The most that one point can stand above another is the
shortest path between them, whose edges explain it; a cycle of negative length is a contradiction, and its
edges are what cannot all be true (R. Bellman, On a routing problem, 1958; T. Cormen et al., Introduction to
Algorithms, "difference constraints and shortest paths").
"""

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from scipy.optimize import linprog
from scipy.sparse import csr_array
from scipy.sparse.csgraph import NegativeCycleError, floyd_warshall, johnson

from spare_margin.core.least import ROUNDING

Floats = Sequence[float]
Why = Literal["reading", "falls", "source", "load"]
"""Where a bound comes from: a reading, volts that only fall along a piece, a source or a load."""
DENSE = 150
"""Up to so many points every pair is worked out at once."""
NO_WAY_V = 1e7
"""Farther than any way there is."""


@dataclass(frozen=True, slots=True)
class Bound:
    """v(start) - v(end) <= most_v. `readings` are the ids of those it comes from."""

    start: str
    end: str
    most_v: float
    why: Why
    readings: tuple[str, ...] = ()


@dataclass(frozen=True)
class Extreme:
    """The most of a weighed sum of drops (V), infinite where nothing bounds it.

    What bounds it, `tell` gives; it is worked out when something asks.
    """

    volts: float
    tell: Callable[[], tuple[Bound, ...]] = tuple

    @cached_property
    def by(self) -> tuple[Bound, ...]:
        """What bounds it, in order."""
        return self.tell()

    def at_most(self, top_v: float) -> "Extreme":
        """The same, where it is known to be no more than that (V); nothing bounds what has no bound.

        Args:
            top_v: the most it can be (V).
        """
        capped = top_v < self.volts < math.inf
        return Extreme(top_v, self.tell) if capped else self

    @property
    def readings(self) -> frozenset[str]:
        """The ids of the readings it rests on."""
        return frozenset(r for bound in self.by for r in bound.readings)


class Bounds:
    """A system of bounds over some points.

    Attributes:
        contradiction: bounds that no volts can keep together; empty where some can. Where there is one,
            nothing is bounded: nothing rests on what contradicts itself.
    """

    def __init__(self, bounds: Iterable[Bound], points: Iterable[str] = ()) -> None:
        tightest: dict[tuple[str, str], Bound] = {}
        for bound in bounds:
            held = tightest.get((bound.start, bound.end))
            if held is None or bound.most_v < held.most_v:
                tightest[bound.start, bound.end] = bound
        self._tightest: Mapping[tuple[str, str], Bound] = tightest
        self.points = tuple(dict.fromkeys([*points, *(p for pair in tightest for p in pair)]))
        self._at = {p: i for i, p in enumerate(self.points)}
        self.contradiction: tuple[Bound, ...] = ()
        try:
            self._distances, self._before = self._shortest()
        except NegativeCycleError:
            self.contradiction = self._cycle()
            # Nothing rests on what contradicts itself.
            self._distances = np.full((len(self.points), len(self.points)), math.inf)

    @cached_property
    def _edges(self) -> tuple[list[int], list[int], list[float]]:
        start = [self._at[a] for a, _ in self._tightest]
        end = [self._at[b] for _, b in self._tightest]
        return start, end, [b.most_v + ROUNDING for b in self._tightest.values()]

    def _shortest(self) -> tuple[np.ndarray, np.ndarray]:
        start, end, most = self._edges
        count = len(self.points)
        found: tuple[np.ndarray, np.ndarray]
        if count <= DENSE:
            ways = np.full((count, count), math.inf)
            ways[start, end] = most
            none = np.isinf(ways)
            found = floyd_warshall(np.ma.masked_array(ways, none), return_predecessors=True)
        else:
            graph = csr_array((most, (start, end)), shape=(count, count))
            found = johnson(graph, return_predecessors=True)
        if (np.diagonal(found[0]) < 0).any():
            raise NegativeCycleError
        return found

    def _cycle(self) -> tuple[Bound, ...]:
        """The bounds of one negative cycle, by Bellman and Ford's relaxation."""
        start, end, most = (np.array(column) for column in self._edges)
        distance = np.zeros(len(self.points))
        came_by = np.full(len(self.points), -1)
        last = -1
        for _ in range(len(self.points) + 1):
            reached = distance[start] + most
            order = np.argsort(-reached, kind="stable")
            better = order[reached[order] < distance[end[order]] - ROUNDING / 2]
            if not len(better):
                break
            # The shortest of several ways to a point comes last, and stays.
            distance[end[better]], came_by[end[better]] = reached[better], better
            last = int(end[better[-1]])
        for _ in self.points:
            last = int(start[came_by[last]])
        bounds, at = list(self._tightest.values()), last
        cycle: list[Bound] = []
        while not cycle or at != last:
            cycle.append(bounds[came_by[at]])
            at = int(start[came_by[at]])
        return tuple(reversed(cycle))

    def most(self, start: str, end: str) -> Extreme:
        """The most that v(start) - v(end) can be, and what says so."""
        volts = self.most_v(start, end)
        if start == end or math.isinf(volts):
            return Extreme(volts)
        return Extreme(volts, lambda: self._path(start, end))

    def _path(self, start: str, end: str) -> tuple[Bound, ...]:
        row, at = self._at[start], self._at[end]
        path: list[Bound] = []
        while at != row:
            before = int(self._before[row, at])
            path.append(self._tightest[self.points[before], self.points[at]])
            at = before
        return tuple(reversed(path))

    def most_v(self, start: str, end: str) -> float:
        """The most that v(start) - v(end) can be (V), without what bounds it."""
        if start == end:
            return 0.0
        if start not in self._at or end not in self._at:
            return math.inf
        return float(self._distances[self._at[start], self._at[end]])

    def least_v(self, start: str, end: str) -> float:
        """The least that v(start) - v(end) can be (V)."""
        return -self.most_v(end, start)

    def most_of(self, drops: Sequence[tuple[str, str, float]]) -> Extreme:
        """The most that a sum of drops can be, each (start, end, times).

        By duality it is what it costs least to carry the times from where drops start to where they end,
        each way as long as its tightest bound (T. Cormen et al.: linear programming, duality); the ways
        that are taken are the explanation.
        """
        if len(drops) == 1:
            ((start, end, times),) = drops
            return self._times(start, end, times)
        aim: dict[str, float] = {}
        for start, end, times in drops:
            if math.isinf(times) or self.contradiction:
                return Extreme(math.inf)
            aim[start] = aim.get(start, 0.0) + times
            aim[end] = aim.get(end, 0.0) - times
        given = [(p, x) for p, x in aim.items() if x > ROUNDING]
        taken = [(p, -x) for p, x in aim.items() if x < -ROUNDING]
        if not given:
            return Extreme(0.0)
        if len(given) == len(taken) == 1:
            (start, times), (end, _) = given[0], taken[0]
            return self._times(start, end, times)
        costs = [[min(self.most_v(a, b), NO_WAY_V) for b, _ in taken] for a, _ in given]
        carried = transported([x for _, x in given], [x for _, x in taken], costs)
        ways = [
            (a, b, cost, amount)
            for (a, _), row, line in zip(given, costs, carried, strict=True)
            for (b, _), cost, amount in zip(taken, row, line, strict=True)
            if amount > ROUNDING
        ]
        if any(cost >= NO_WAY_V for _, _, cost, _ in ways):
            return Extreme(math.inf)
        return Extreme(
            sum(cost * amount for _, _, cost, amount in ways),
            lambda: tuple(dict.fromkeys(b for a, z, _, _ in ways for b in self._path(a, z))),
        )

    def _times(self, start: str, end: str, times: float) -> Extreme:
        """The most that a drop can be, so many times."""
        if times <= ROUNDING:
            return Extreme(0.0)
        if math.isinf(times) or self.contradiction:
            return Extreme(math.inf)
        return Extreme(times * self.most_v(start, end), lambda: self.most(start, end).by)


def transported(given: Floats, taken: Floats, costs: Sequence[Floats]) -> Sequence[Floats]:
    """What is carried from each place to each other at least cost, (n, m); as much is given as is taken.

    Args:
        given, taken: amounts, (n,) and (m,).
        costs: what one costs from each place to each other, (n, m).

    >>> transported([1.0, 2.0], [3.0], [[5.0], [7.0]])
    [[1.0], [2.0]]
    """
    if len(given) > 2 and len(taken) > 2:
        return _by_programme(given, taken, costs)
    if len(taken) <= 2 < len(given):
        return _turned(transported(taken, given, _turned(costs)))
    if len(given) == 1:
        return [list(taken)]
    # The first gives to those that it serves cheapest against the second, as far as it has.
    first, left = [0.0] * len(taken), given[0]
    for j in sorted(range(len(taken)), key=lambda j: costs[0][j] - costs[1][j]):
        first[j] = min(left, taken[j])
        left -= first[j]
    return [first, [all_of_it - own for all_of_it, own in zip(taken, first, strict=True)]]


def _turned(rows: Sequence[Floats]) -> list[list[float]]:
    return [list(column) for column in zip(*rows, strict=True)]


def _by_programme(given: Floats, taken: Floats, costs: Sequence[Floats]) -> Sequence[Floats]:
    n, m = len(given), len(taken)
    rows = np.kron(np.eye(n), np.ones(m))
    columns = np.kron(np.ones(n), np.eye(m))
    found = linprog(
        np.ravel(costs), A_eq=np.vstack([rows, columns[:-1]]), b_eq=[*given, *taken[:-1]],
        method="highs",
    )  # fmt: skip
    carried: list[list[float]] = np.asarray(found.x).reshape(n, m).tolist()
    return carried
