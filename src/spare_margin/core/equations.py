"""The linear equations of a laid-out craft: nodes, then currents of their own, then sources.

Pieces below OWN_CURRENT_BELOW_OHM have their current as an unknown, so that Kirchhoff's current law
holds to rounding however small a resistance is (modified nodal analysis).
"""

from collections.abc import Callable
from typing import Protocol, cast

import numpy as np
from numpy.typing import NDArray
from scipy.linalg.lapack import dgetrf, dgetrs
from scipy.sparse import coo_array, csc_array
from scipy.sparse.linalg import splu

from .errors import JobError
from .loads import LoadLaws

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]

OWN_CURRENT_BELOW_OHM = 1e-3
"""Pieces of less resistance than this have their current as an unknown of its own."""
DENSE_UP_TO = 120
"""Up to this many unknowns a dense factorisation is the quicker one."""


class Layout(Protocol):
    """What the equations need to know of a craft, as index arrays: ends have shape (2, n)."""

    index: dict[str, int]
    piece_ends: Ints
    load_ends: Ints
    source_ends: Ints
    emf: Floats
    internal: Floats
    free: NDArray[np.bool_]
    laws: LoadLaws
    extra: Floats


class System:
    """The linear equations of one set of resistances: nodes, then own currents, then sources."""

    def __init__(self, circuit: Layout, ohms: Floats) -> None:
        n = len(circuit.index)
        unknown = own_current(ohms)
        start, end = circuit.piece_ends
        self.own = unknown
        own_start, own_end = start[unknown], end[unknown]
        self.ohms = ohms
        self.ends = circuit.load_ends
        self.laws, self.extra = circuit.laws, circuit.extra
        conductance = 1 / ohms[~unknown]
        branches = np.concatenate([own_start, circuit.source_ends[0]])
        into = np.concatenate([own_end, circuit.source_ends[1]])
        branch_ohm = np.concatenate([ohms[unknown], circuit.internal])
        self.size = n + len(branches)
        row = n + np.arange(len(branches))
        one = np.ones(len(branches))
        rows, cols, values = _stamp(start[~unknown], end[~unknown], conductance)
        rows = np.concatenate([rows, branches, into, row, row, row])
        cols = np.concatenate([cols, row, row, branches, into, row])
        values = np.concatenate([values, one, -one, one, -one, -branch_ohm])
        self.rhs = np.zeros(self.size)
        self.rhs[n + len(own_start) :] = -circuit.emf
        self.free = np.concatenate([circuit.free, np.ones(len(branches), dtype=bool)])
        self.place = np.cumsum(self.free) - 1
        self.base = self._matrix(rows, cols, values)
        self.factored: tuple[Floats, _Factors] | None = None

    def _matrix(self, rows: Ints, cols: Ints, values: Floats) -> csc_array | Floats:
        """These entries as a matrix of the free unknowns: dense while it is small."""
        keep = self.free[rows] & self.free[cols]
        rows, cols = self.place[rows[keep]], self.place[cols[keep]]
        n = int(self.free.sum())
        if n > DENSE_UP_TO:
            return csc_array(coo_array((values[keep], (rows, cols)), shape=(n, n)))
        dense = np.zeros((n, n))
        np.add.at(dense, (rows, cols), values[keep])
        return dense

    def solve(self, slope: Floats, offset: Floats) -> Floats:
        """The unknowns when each load draws slope * V + offset."""
        x = np.zeros(self.size)
        if not self.free.any():
            return x
        b = self._pulled(offset)
        try:
            found = self._factors(slope).solve(b)
        except (np.linalg.LinAlgError, RuntimeError):
            found = np.full(len(b), np.nan)
        if not np.isfinite(found).all():
            raise JobError(
                "sources",
                "two sources without internal resistance fight over the same points",
                "an internal_ohm above 0 for sources that stand side by side",
            )
        x[self.free] = found
        return x

    def responses(self, slope: Floats, columns: Floats) -> Floats:
        """The unknowns for several right-hand sides at once, each load drawing slope * V.

        Shapes: `columns` (unknowns, n); the answer the same, zero for grounded points.
        """
        out = np.zeros_like(columns)
        out[self.free] = self._factors(slope).solve(np.ascontiguousarray(columns[self.free]))
        return out

    def _factors(self, slope: Floats) -> "_Factors":
        """The matrix with these slopes at the loads, factored; the last ones are kept."""
        if self.factored is None or not np.array_equal(self.factored[0], slope):
            matrix = self.base
            if slope.any():
                drawn = self._matrix(*_stamp(self.ends[0], self.ends[1], slope))
                matrix = cast("csc_array | Floats", matrix + drawn)
            self.factored = slope.copy(), _Factors(matrix)
        return self.factored[1]

    def _pulled(self, drawn: Floats) -> Floats:
        """The right-hand side of the free unknowns when the loads draw these currents."""
        rhs = self.rhs.copy()
        np.subtract.at(rhs, self.ends[0], drawn)
        np.add.at(rhs, self.ends[1], drawn)
        free: Floats = rhs[self.free]
        return free

    def across_loads(self, x: Floats) -> Floats:
        """V across each load."""
        drop: Floats = x[self.ends[0]] - x[self.ends[1]]
        return drop

    def imbalance(self, x: Floats) -> float:
        """The largest current (A) or voltage (V) by which the laws are not kept at x."""
        drawn = self.laws.current(self.across_loads(x)) + self.extra
        return float(np.abs(self.base @ x[self.free] - self._pulled(drawn)).max(initial=0.0))


class _Factors:
    """A factored matrix. Raises LinAlgError or RuntimeError, or later gives NaN, if it is singular."""

    def __init__(self, matrix: csc_array | Floats) -> None:
        self.matrix = matrix
        self.once: Callable[[Floats], Floats]
        if isinstance(matrix, np.ndarray):
            factors, pivots, singular = dgetrf(matrix)
            if singular:
                raise np.linalg.LinAlgError
            self.once = lambda b: dgetrs(factors, pivots, b)[0]
        else:
            self.once = splu(matrix).solve

    def solve(self, b: Floats) -> Floats:
        """The solution for this right-hand side, with one step of iterative refinement."""
        found = self.once(b)
        return found + self.once(b - self.matrix @ found)


def own_current(ohms: Floats) -> NDArray[np.bool_]:
    """Which pieces have their current as an unknown of its own."""
    small: NDArray[np.bool_] = ohms < OWN_CURRENT_BELOW_OHM
    return small


def _stamp(start: Ints, end: Ints, conductance: Floats) -> tuple[Ints, Ints, Floats]:
    return (
        np.concatenate([start, end, start, end]),
        np.concatenate([start, end, end, start]),
        np.concatenate([conductance, conductance, -conductance, -conductance]),
    )
