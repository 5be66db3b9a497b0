"""The linear equations between the points where ways part: nodes, then currents of their own, then sources.

Branches below OWN_CURRENT_BELOW_OHM have their current as an unknown, so that Kirchhoff's current law
holds to rounding however small a resistance is (modified nodal analysis).
"""

from collections.abc import Callable
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.linalg.lapack import dgetrf, dgetrs
from scipy.sparse import csc_array, eye_array
from scipy.sparse.linalg import splu

from spare_margin.core.columns import Floats, Ints

from .chains import Chains

OWN_CURRENT_BELOW_OHM = 1e-3
"""Pieces and branches of less resistance than this have their current as an unknown of its own."""
DENSE_UP_TO = 90
"""Up to this many unknowns a dense factorisation is the quicker one."""


class SparsityPattern:
    """Where the entries of a matrix stand; laid out once, filled with values as often as wanted.

    `place` is each unknown's place in the matrix, -1 for what is grounded.

    Args:
        rows: the row of each entry, (entries,).
        cols: its column, (entries,).
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
    """Which unknowns there are, and where each entry stands, while the same branches are `own`.

    Args:
        n: how many points there are.
        branches, loads, sources: their ends (2, count).
        points: which points are unknown.
        own: which branches have their current as an unknown of its own.

    Attributes:
        free: the unknowns, in the order in which they are eliminated.
        apart: 1 for each branch that is not `own` and joins two points, 0 where it joins one to itself.
    """

    def __init__(
        self,
        n: int,
        branches: Ints,
        loads: Ints,
        sources: Ints,
        points: NDArray[np.bool_],
        own: NDArray[np.bool_],
    ) -> None:
        start, end = branches
        self.n, self.branches, self.own, self.load_ends = n, branches, own, loads
        self.owning: Ints = np.flatnonzero(own)
        self.apart: Floats = (start != end)[~own].astype(float)
        out = np.concatenate([start[own], sources[0]])
        into = np.concatenate([end[own], sources[1]])
        row = n + np.arange(len(out))
        rows, cols = _stamp(start[~own], end[~own])
        self.rows = np.concatenate([rows, out, into, row, row, row])
        self.cols = np.concatenate([cols, row, row, out, into, row])
        self.one = np.ones(len(out))
        self.size = n + len(out)
        free = np.flatnonzero(np.concatenate([points, np.ones(len(out), dtype=bool)]))
        self.place = _placed(free, self.size)
        if len(free) > DENSE_UP_TO:
            rows, cols = self._among(np.ones(self.load_ends.shape[1], dtype=bool))
            free = free[_sparing_order(self.place[rows], self.place[cols], len(free))]
            self.place = _placed(free, self.size)
        self.free: Ints = free
        self.base = SparsityPattern(self.rows, self.cols, self.place)
        self.drawing: tuple[NDArray[np.bool_], SparsityPattern] | None = None

    def with_loads(self, drawing: NDArray[np.bool_]) -> SparsityPattern:
        """The pattern with these loads among the entries; the last one is kept.

        Args:
            drawing: whether each load is among the entries, (loads,).
        """
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


def skeleton_of(
    held: Chains, points: NDArray[np.bool_], sources: Ints, own: NDArray[np.bool_]
) -> Skeleton:
    """The skeleton of a craft's chains; `points` that are not grounded, plain chains that are `own`.

    Args:
        held: the chains of the craft.
        sources: ends of the sources, (2, sources).
    """
    plain = np.stack([held.near[held.plain], held.far[held.plain]])
    ends = (each.tobytes() for each in (plain, held.load_ends, sources))
    return _skeleton(held.n, *ends, (points & held.kept).tobytes(), own.tobytes())


@lru_cache(maxsize=64)
def _skeleton(
    n: int, branches: bytes, loads: bytes, sources: bytes, points: bytes, own: bytes
) -> Skeleton:
    """Remembered: most wirings that are asked about differ in ohms alone."""

    def ends(given: bytes) -> Ints:
        return np.frombuffer(given, dtype=np.intp).reshape(2, -1)

    free, small = (np.frombuffer(each, dtype=np.bool_) for each in (points, own))
    return Skeleton(n, ends(branches), ends(loads), ends(sources), free, small)


class Equations:
    """The equations of one set of resistances; what is unknown are kept points, own currents, sources.

    Args:
        skeleton: which unknowns there are, and where each entry stands.
        ohms: of the branches between kept points (B,).
        internal: ohms of the sources (S,).
    """

    def __init__(self, skeleton: Skeleton, ohms: Floats, internal: Floats) -> None:
        self.skeleton, own = skeleton, skeleton.own
        self.size, self.free = skeleton.size, skeleton.free
        self.conductance = np.zeros(len(ohms))
        self.conductance[~own] = 1 / ohms[~own]
        one, held_back = skeleton.one, np.concatenate([ohms[own], internal])
        joining = skeleton.apart * self.conductance[~own]
        self.values = np.concatenate([_stamped(joining), one, -one, one, -one, -held_back])
        self.base = skeleton.base.filled(self.values)
        self.factored: tuple[Floats, _Factors] | None = None

    def solve(self, slope: Floats, rhs: Floats) -> Floats:
        """The unknowns when each load draws slope * V beside what the right-hand side says.

        Shapes: `rhs` (size,) or (size, columns), the answer the same; zero where nothing is unknown.
        LinAlgError or RuntimeError, or NaN, where the matrix is singular.
        """
        x = np.zeros_like(rhs)
        if len(self.free):
            x[self.free] = self._factors(slope).solve(rhs[self.free])
        return x

    def carried(self, x: Floats, lost: Floats | float = 0.0) -> Floats:
        """The current (A) of each branch, from start to end, where these volts are lost beside its ohms.

        Shapes: `x` (size,) or (size, columns); `lost` and the answer (B,) or (B, columns).
        """
        start, end = self.skeleton.branches
        conductance = self.conductance if x.ndim == 1 else self.conductance[:, None]
        out: Floats = conductance * (x[start] - x[end] - lost)
        first, owning = self.skeleton.n, self.skeleton.owning
        out[owning] = x[first : first + len(owning)]
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
    """Which pieces or branches have their current as an unknown of its own.

    Args:
        ohms: ohms, one for each piece, (pieces,).
    """
    small: NDArray[np.bool_] = ohms < OWN_CURRENT_BELOW_OHM
    return small


def _stamp(start: Ints, end: Ints) -> tuple[Ints, Ints]:
    """Where conductances between these points stand, as rows and columns; see `_stamped`."""
    return np.concatenate([start, end, start, end]), np.concatenate([start, end, end, start])


def _stamped(conductance: Floats) -> Floats:
    """What stands at the places of `_stamp`."""
    return np.concatenate([conductance, conductance, -conductance, -conductance])
