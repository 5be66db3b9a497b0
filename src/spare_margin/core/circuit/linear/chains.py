"""Pieces one behind the other as chains: one current passes all of them, so that the equations need only
the points where ways part.

A chain runs outward from its near point to its far one. Where it ends at a load's terminal that nothing
else touches it is a leg of that load: what the load draws passes it, and the load with its legs stands
between the points where they begin.
"""

from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.columns import Floats, Ints

LONGEST = 32
"""Pieces of one chain at most: a longer one is cut, so that few long ones do not make every row long."""


class _Step(NamedTuple):
    """A piece passed from one of its ends to the other."""

    piece: int
    start: int
    end: int


class Chains:
    """The pieces of a craft as chains: n points, P pieces, L loads; C chains of up to W pieces.

    Args:
        n: how many points there are.
        pieces, loads, sources: their ends, of shape (2, count).
        free: which points are not grounded (n,).

    Attributes:
        kept: which points remain unknowns (n,).
        near, far: the points between which each chain runs, the longest chain first (C,).
        pieces: the pieces of each in their order outward; P where it has no more (C, W).
        outward: 1 where a piece is drawn outward, -1 where inward, 0 where there is none (C, W).
        reached: the point behind each piece; n where that is kept or there is none (C, W).
        of_piece, along: the chain of each piece, and 1 where it is drawn outward, -1 where inward (P,).
        rows_at: which chains have a piece at each place outward; of W.
        plain: the numbers of the chains that are nobody's leg.
        legs: the chain that is a leg at each load's start and at its end; C where there is none (2, L).
        load_ends: the kept points between which each load stands with its legs (2, L).
    """

    def __init__(
        self, n: int, pieces: Ints, loads: Ints, sources: Ints, free: NDArray[np.bool_]
    ) -> None:
        ways, is_leg = _ways(n, pieces, loads, sources, free)
        self.n, c = n, len(ways)
        shape = (c, max(map(len, ways), default=0))
        self.near: Ints = np.array([way[0].start for way in ways], dtype=np.intp)
        self.far: Ints = np.array([way[-1].end for way in ways], dtype=np.intp)
        self.pieces: Ints = np.full(shape, pieces.shape[1], dtype=np.intp)
        self.outward: Floats = np.zeros(shape)
        self.reached: Ints = np.full(shape, n, dtype=np.intp)
        self.of_piece: Ints = np.zeros(pieces.shape[1], dtype=np.intp)
        self.along: Floats = np.zeros(pieces.shape[1])
        for row, way in enumerate(ways):
            piece, start, end = np.array(way, dtype=np.intp).T
            self.pieces[row, : len(way)] = piece
            self.along[piece] = np.where(pieces[0, piece] == start, 1.0, -1.0)
            self.outward[row, : len(way)] = self.along[piece]
            self.of_piece[piece] = row
            last = len(way) if is_leg[row] else len(way) - 1
            self.reached[row, :last] = end[:last]
        lengths = np.array([len(way) for way in ways], dtype=np.intp)
        self.rows_at = [slice(0, int((lengths > k).sum())) for k in range(shape[1])]
        self.kept: NDArray[np.bool_] = np.ones(n + 1, dtype=bool)
        self.kept[self.reached] = False
        self.kept = self.kept[:n]
        legs = np.array(is_leg, dtype=bool)
        self.plain: Ints = np.flatnonzero(~legs)
        leg_at = np.full(n, c, dtype=np.intp)
        leg_at[self.far[legs]] = np.flatnonzero(legs)
        self.legs: Ints = leg_at[loads]
        self.load_ends: Ints = np.where(self.legs < c, np.append(self.near, 0)[self.legs], loads)


def _ways(
    n: int, pieces: Ints, loads: Ints, sources: Ints, free: NDArray[np.bool_]
) -> tuple[list[list[_Step]], list[bool]]:
    """The chains, the longest first, each outward; and which of them are legs."""
    degree, at_load, at_source = (
        np.bincount(ends.ravel(), minlength=n) for ends in (pieces, loads, sources)
    )
    bare = free & (at_source == 0)
    passed = (bare & (degree == 2) & (at_load == 0)).tolist()
    tip = (bare & (degree == 1) & (at_load == 1)).tolist()
    found = []
    for way in _walked(pieces, passed):
        # One that joins two terminals leaves both: the loads stand one behind the other.
        back, on = tip[way[0].start], tip[way[-1].end]
        turned = [_Step(piece, end, start) for piece, start, end in reversed(way)]
        found.append((turned if back and not on else way, back != on))
    found.sort(key=lambda each: len(each[0]), reverse=True)
    return [way for way, _ in found], [leg for _, leg in found]


def _walked(pieces: Ints, passed: list[bool]) -> list[list[_Step]]:
    """Every piece in one way, from a point that is not passed to the next, or until it is long enough."""
    starts, ends = pieces.tolist()
    touching: list[list[int]] = [[] for _ in passed]
    for piece, (start, end) in enumerate(zip(starts, ends, strict=True)):
        touching[start].append(piece)
        touching[end].append(piece)
    seen = [False] * len(starts)
    ways = []
    for first, inner in enumerate(passed):
        for begun in () if inner else touching[first]:
            at, piece = first, begun
            while not seen[piece]:
                way: list[_Step] = []
                ways.append(way)
                while True:
                    seen[piece] = True
                    start, at = at, ends[piece] if starts[piece] == at else starts[piece]
                    way.append(_Step(piece, start, at))
                    if not passed[at]:
                        break
                    one, other = touching[at]
                    piece = other if one == piece else one
                    if len(way) == LONGEST:
                        break
    return ways


@lru_cache(maxsize=64)
def chains(n: int, pieces: bytes, loads: bytes, sources: bytes, free: bytes) -> Chains:
    """The chains of ends that are given as bytes, remembered: most wirings differ in ohms alone.

    Args:
        n: how many points.
        pieces: ends of the pieces, (2, pieces), as bytes.
        loads: ends of the loads, (2, loads), as bytes.
        sources: ends of the sources, (2, sources), as bytes.
        free: whether each point hangs loose, (n,), as bytes.
    """
    first, second, third = (
        np.frombuffer(each, dtype=np.intp).reshape(2, -1) for each in (pieces, loads, sources)
    )
    return Chains(n, first, second, third, np.frombuffer(free, dtype=np.bool_))
