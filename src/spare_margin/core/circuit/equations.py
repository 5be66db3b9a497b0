"""The linear equations of a laid-out craft: nodes, then currents of their own, then sources.

Pieces below OWN_CURRENT_BELOW_OHM have their current as an unknown, so that Kirchhoff's current law
holds to rounding however small a resistance is (modified nodal analysis).
"""

from collections.abc import Callable
from functools import lru_cache
from typing import Protocol

import numpy as np
from numpy.typing import NDArray
from scipy.linalg.lapack import dgetrf, dgetrs
from scipy.sparse import csc_array, eye_array
from scipy.sparse.linalg import splu

from spare_margin.core.errors import JobError

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]

OWN_CURRENT_BELOW_OHM = 1e-3
"""Pieces of less resistance than this have their current as an unknown of its own."""
DENSE_UP_TO = 90
"""Up to this many unknowns a dense factorisation is the quicker one."""


class Laid(Protocol):
    """What the equations need to know of a craft, as index arrays: ends have shape (2, n)."""

    index: dict[str, int]
    piece_ends: Ints
    load_ends: Ints
    source_ends: Ints
    emf: Floats
    internal: Floats
    free: NDArray[np.bool_]


class SparsityPattern:
    """Where the entries of a matrix stand; laid out once, filled with values as often as wanted.

    `place` is each unknown's place in the matrix, -1 for what is grounded.
    """

    def __init__(self, rows: Ints, cols: Ints, place: Ints) -> None:
        self.n = int((place >= 0).sum())
        rows, cols = place[rows], place[cols]
        self.keep = (rows >= 0) & (cols >= 0)
        rows, cols = rows[self.keep], cols[self.keep]
        self.dense = self.n <= DENSE_UP_TO
        if self.dense:
            self.size, self.at = self.n**2, rows * self.n + cols
            return
        entries, self.at = np.unique(cols * self.n + rows, return_inverse=True)
        self.size = len(entries)
        self.rows = entries % self.n
        self.starts = np.searchsorted(entries, np.arange(self.n + 1) * self.n)

    def filled(self, values: Floats) -> csc_array | Floats:
        """The matrix with these values, those of one place added up: dense while it is small."""
        data = np.bincount(self.at, values[self.keep], self.size).astype(np.float64, copy=False)
        if self.dense:
            return data.reshape(self.n, self.n)
        return csc_array((data, self.rows, self.starts), shape=(self.n, self.n))


class Skeleton:
    """Which unknowns there are, and where each entry stands, while the same pieces are `own`.

    Args:
        n: how many points there are.
        pieces, loads, sources: their ends, of shape (2, count).
        points: which points are not grounded.
        own: which pieces have their current as an unknown of its own.

    Attributes:
        free: the unknowns that are not grounded, in the order in which they are eliminated.
    """

    def __init__(
        self,
        n: int,
        pieces: Ints,
        loads: Ints,
        sources: Ints,
        points: NDArray[np.bool_],
        own: NDArray[np.bool_],
    ) -> None:
        start, end = pieces
        self.own, self.load_ends = own, loads
        branches = np.concatenate([start[own], sources[0]])
        into = np.concatenate([end[own], sources[1]])
        row = n + np.arange(len(branches))
        rows, cols = _stamp(start[~own], end[~own])
        self.rows = np.concatenate([rows, branches, into, row, row, row])
        self.cols = np.concatenate([cols, row, row, branches, into, row])
        self.one = np.ones(len(branches))
        self.size = n + len(branches)
        free = np.flatnonzero(np.concatenate([points, np.ones(len(branches), dtype=bool)]))
        self.place = _placed(free, self.size)
        if len(free) > DENSE_UP_TO:
            rows, cols = self._among(np.ones(self.load_ends.shape[1], dtype=bool))
            free = free[_sparing_order(self.place[rows], self.place[cols], len(free))]
            self.place = _placed(free, self.size)
        self.free: Ints = free
        self.base = SparsityPattern(self.rows, self.cols, self.place)
        self.drawing: tuple[NDArray[np.bool_], SparsityPattern] | None = None

    def with_loads(self, drawing: NDArray[np.bool_]) -> SparsityPattern:
        """The pattern with these loads among the entries; the last one is kept."""
        held = self.drawing
        if held is not None and np.array_equal(held[0], drawing):
            return held[1]
        pattern = SparsityPattern(*self._among(drawing), self.place)
        self.drawing = drawing, pattern
        return pattern

    def _among(self, drawing: NDArray[np.bool_]) -> tuple[Ints, Ints]:
        """Where the entries stand with these loads among them, as rows and columns."""
        rows, cols = _stamp(*self.load_ends[:, drawing])
        return np.concatenate([self.rows, rows]), np.concatenate([self.cols, cols])


def _placed(free: Ints, size: int) -> Ints:
    """The place of each of `size` unknowns among the free ones, -1 for what is grounded."""
    place = np.full(size, -1)
    place[free] = np.arange(len(free))
    return place


def _sparing_order(rows: Ints, cols: Ints, n: int) -> Ints:
    """An order of elimination that fills in little whatever the pivots; entries at -1 do not count.

    By columns (T. A. Davis et al., A column approximate minimum degree ordering algorithm, ACM TOMS 30,
    2004), once for all values: a craft is nearly a tree, and found afresh for every factorisation the
    order takes longer than the factors.
    """
    kept = (rows >= 0) & (cols >= 0)
    entries = csc_array((np.ones(kept.sum()), (rows[kept], cols[kept])), shape=(n, n))
    steep = entries + len(rows) * eye_array(n, format="csc")
    order: Ints = np.argsort(splu(steep, permc_spec="COLAMD").perm_c)
    return order


@lru_cache(maxsize=64)
def _skeleton(
    n: int, pieces: bytes, loads: bytes, sources: bytes, points: bytes, own: bytes
) -> Skeleton:
    """Remembered: most wirings that are asked about differ in ohms alone."""

    def ends(given: bytes) -> Ints:
        return np.frombuffer(given, dtype=np.intp).reshape(2, -1)

    free, small = (np.frombuffer(each, dtype=np.bool_) for each in (points, own))
    return Skeleton(n, ends(pieces), ends(loads), ends(sources), free, small)


class System:
    """The linear equations of one set of resistances: nodes, then own currents, then sources.

    A `before` of the same craft lends its skeleton where the same pieces have their own currents.
    """

    def __init__(self, circuit: Laid, ohms: Floats, before: "System | None" = None) -> None:
        own: NDArray[np.bool_] = own_current(ohms)
        skeleton = None if before is None else before.skeleton
        if skeleton is None or not np.array_equal(skeleton.own, own):
            ends = (circuit.piece_ends, circuit.load_ends, circuit.source_ends)
            told_by = (each.tobytes() for each in (*ends, circuit.free, own))
            skeleton = _skeleton(len(circuit.index), *told_by)
        self.skeleton: Skeleton = skeleton
        self.own, self.ohms, self.ends = own, ohms, circuit.load_ends
        self.size, self.free = skeleton.size, skeleton.free
        branch_ohm = np.concatenate([ohms[own], circuit.internal])
        one = skeleton.one
        self.values = np.concatenate([_stamped(1 / ohms[~own]), one, -one, one, -one, -branch_ohm])
        self.rhs = np.zeros(self.size)
        self.rhs[self.size - len(circuit.emf) :] = -circuit.emf
        self.base = skeleton.base.filled(self.values)
        self.factored: tuple[Floats, _Factors] | None = None

    def solve(self, slope: Floats, offset: Floats) -> Floats:
        """The unknowns when each load draws slope * V + offset."""
        x = np.zeros(self.size)
        if not len(self.free):
            return x
        b = self._pulled(offset)
        try:
            found = self._factors(slope).solve(b)
        except (np.linalg.LinAlgError, RuntimeError):
            found = np.full(len(b), np.nan)
        if not np.isfinite(found).all():
            raise JobError(
                "sources",
                "nothing holds back the current of a source without internal resistance",
                "an internal_ohm above 0 for sources that stand side by side or are shorted",
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
        held = self.factored
        if held is not None and np.array_equal(held[0], slope):
            return held[1]
        matrix, drawing = self.base, slope != 0
        if drawing.any():
            values = np.concatenate([self.values, _stamped(slope[drawing])])
            matrix = self.skeleton.with_loads(drawing).filled(values)
        factors = _Factors(matrix)
        # Only a cache: whoever asks gets the factors of the slopes that were asked for.
        self.factored = slope.copy(), factors
        return factors

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

    def imbalance(self, x: Floats, drawn: Floats) -> float:
        """The largest current (A) or voltage (V) by which Kirchhoff's laws are not kept at x.

        `drawn` is what the loads draw there (A).
        """
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
            # In its order already; supernodes and panels are for denser matrices than a craft's.
            self.once = splu(matrix, permc_spec="NATURAL", relax=1, panel_size=1).solve

    def solve(self, b: Floats) -> Floats:
        """The solution for this right-hand side, with one step of iterative refinement."""
        found = self.once(b)
        return found + self.once(b - self.matrix @ found)


def own_current(ohms: Floats) -> NDArray[np.bool_]:
    """Which pieces have their current as an unknown of its own."""
    small: NDArray[np.bool_] = ohms < OWN_CURRENT_BELOW_OHM
    return small


def _stamp(start: Ints, end: Ints) -> tuple[Ints, Ints]:
    """Where conductances between these points stand, as rows and columns; see `_stamped`."""
    return np.concatenate([start, end, start, end]), np.concatenate([start, end, end, start])


def _stamped(conductance: Floats) -> Floats:
    """What stands at the places of `_stamp`."""
    return np.concatenate([conductance, conductance, -conductance, -conductance])
