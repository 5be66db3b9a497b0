"""The linear equations of a laid-out craft with its resistances, solved for every point and current.

The unknowns that are given are the points' volts, then the currents (A) of pieces below
OWN_CURRENT_BELOW_OHM, then those of the sources (modified nodal analysis). Solved is for the points where
ways part alone (static condensation, R. J. Guyan, AIAA Journal 3, 1965): a chain is one branch of
the sum of its ohms, and a load that draws i = s V + o behind legs of R ohms draws
(s V + o) / (1 + s R) between the points where they begin.
"""

from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.columns import Floats, Ints
from spare_margin.core.errors import JobError

from .chains import Chains, chains
from .equations import Equations, Skeleton, own_current, skeleton_of


class Laid(Protocol):
    """What the equations need to know of a craft, as index arrays: ends have shape (2, n)."""

    index: dict[str, int]
    piece_ends: Ints
    load_ends: Ints
    source_ends: Ints
    emf: Floats
    internal: Floats
    free: NDArray[np.bool_]


class System:
    """The equations of one set of resistances. A `before` of the same craft lends what stays.

    Args:
        circuit: the craft laid out.
        ohms: ohms, one for each piece, (pieces,).

    Attributes:
        own: which pieces have their current as an unknown (P,).
        size: how many unknowns are given: n points, own currents, sources.
        rhs: the right-hand side of the sources as they are, nothing drawn (size,).
    """

    def __init__(self, circuit: Laid, ohms: Floats, before: "System | None" = None) -> None:
        self.circuit, self.ohms = circuit, ohms
        self.own: NDArray[np.bool_] = own_current(ohms)
        n = len(circuit.index)
        self.owning: Ints = np.flatnonzero(self.own)
        self.first_source = n + len(self.owning)
        self.size = self.first_source + len(circuit.emf)
        self.rhs = np.zeros(self.size)
        self.rhs[self.first_source :] = -circuit.emf
        if before is None:
            told_by = (circuit.piece_ends, circuit.load_ends, circuit.source_ends, circuit.free)
            self.chains: Chains = chains(n, *(each.tobytes() for each in told_by))
        else:
            self.chains = before.chains
        held = self.chains
        # What each chain has lost of ohms behind each of its pieces, (C, W).
        self.passed = np.append(ohms, 0.0)[held.pieces].cumsum(axis=1)
        self.whole = np.append(self.passed[:, -1] if self.passed.size else [], 0.0)
        self.legs_ohm: Floats = self.whole[held.legs].sum(axis=0)
        plain = self.whole[held.plain]
        skeleton: Skeleton | None = None if before is None else before.equations.skeleton
        if skeleton is None or not np.array_equal(skeleton.own, own_current(plain)):
            skeleton = skeleton_of(held, circuit.free, circuit.source_ends, own_current(plain))
        self.equations: Equations = Equations(skeleton, plain, circuit.internal)

    def solve(self, slope: Floats, offset: Floats) -> Floats:
        """The unknowns when each load draws slope * V + offset. JobError where there is no one answer."""
        held, between = self.chains, self.equations
        slope, share = self._behind_legs(slope)
        offset = offset * share
        rhs = np.zeros(between.size)
        rhs[between.size - len(self.circuit.internal) :] = self.rhs[self.first_source :]
        np.subtract.at(rhs, held.load_ends[0], offset)
        np.add.at(rhs, held.load_ends[1], offset)
        try:
            found = between.solve(slope, rhs)
        except (np.linalg.LinAlgError, RuntimeError):
            found = np.full(between.size, np.nan)
        if not np.isfinite(found).all():
            raise JobError(
                "sources",
                "nothing holds back the current of a source without internal resistance",
                "an internal_ohm above 0 for sources that stand side by side or are shorted",
            )
        start, end = held.load_ends
        drawn = slope * (found[start] - found[end]) + offset
        return self._spread(found, drawn)

    def _behind_legs(self, slope: Floats) -> tuple[Floats, Floats]:
        """What loads of these slopes have with their legs, and the share that is left of what they draw."""
        held = self.chains
        if not slope.any():
            return slope, np.ones(len(slope))
        with np.errstate(divide="ignore"):
            share = 1.0 / (1.0 + slope * self.legs_ohm)
        return np.where(held.load_ends[0] == held.load_ends[1], 0.0, slope * share), share

    def _spread(self, found: Floats, drawn: Floats) -> Floats:
        """All unknowns, by those of the kept points and what each load draws (L,)."""
        held, n = self.chains, self.chains.n
        volts = np.empty(n + 1)
        volts[:n] = found[:n]
        carried = np.zeros(len(held.near) + 1)
        carried[held.plain] = self.equations.carried(found)
        carried[held.legs[0]] = drawn
        carried[held.legs[1]] = -drawn
        carried = carried[:-1]
        volts[held.reached] = volts[held.near, None] - self.passed * carried[:, None]
        own = held.along[self.owning] * carried[held.of_piece[self.owning]]
        return np.concatenate([volts[:n], own, found[found.size - len(self.circuit.internal) :]])

    def responses(self, slope: Floats, columns: Floats) -> Floats:
        """The unknowns for several right-hand sides at once, each load drawing slope * V.

        Shapes: `columns` (size, m), the answer the same; zero for grounded points. What is pushed within
        a chain is carried to its ends: amperes put in at a point add to what flows on from there
        (`added`), volts in series and what these amperes drop are lost along it (`lost`).
        """
        held, between, n = self.chains, self.equations, self.chains.n
        count, m = len(held.near), columns.shape[1]
        put_in = np.zeros((n + 1, m))
        put_in[:n] = columns[:n]
        series = np.zeros((len(self.ohms) + 1, m))
        series[self.owning] = columns[n : self.first_source]
        ohms = np.append(self.ohms, 0.0)
        places = [
            (rows, held.pieces[rows, k], held.outward[rows, k, None], held.reached[rows, k])
            for k, rows in enumerate(held.rows_at)
        ]
        added, lost = np.zeros((count + 1, m)), np.zeros((count + 1, m))
        for rows, piece, outward, point in places:
            lost[rows] += ohms[piece, None] * added[rows] + outward * series[piece]
            added[rows] += put_in[point]

        plain, (out, back), (start, end) = held.plain, held.legs, held.load_ends
        drawing, share = self._behind_legs(slope)
        # What the load has across it more than the points where its legs begin, before it draws.
        more = self.whole[out, None] * added[out] - lost[out]
        more -= self.whole[back, None] * added[back] - lost[back]
        offset = (slope * share)[:, None] * more
        rhs = np.zeros((between.size, m))
        rhs[:n] = put_in[:n]
        held_back = between.conductance[:, None] * lost[plain]
        np.add.at(rhs, held.near[plain], held_back)
        np.add.at(rhs, held.far[plain], added[plain] - held_back)
        np.add.at(rhs, start, added[out] - offset)
        np.add.at(rhs, end, added[back] + offset)
        own = between.skeleton.owning
        rhs[n : n + len(own)] = lost[plain[own]]
        rhs[n + len(own) :] = columns[self.first_source :]
        found = between.solve(drawing, rhs)

        drawn = drawing[:, None] * (found[start] - found[end]) + offset
        flows = np.zeros((count + 1, m))
        flows[plain] = between.carried(found, lost[plain])
        flows[out] = drawn - added[out]
        flows[back] = -drawn - added[back]
        volts, currents = np.zeros((n + 1, m)), np.zeros((len(ohms), m))
        volts[:n] = found[:n]
        here = volts[held.near]
        for rows, piece, outward, point in places:
            here[rows] -= ohms[piece, None] * flows[rows] + outward * series[piece]
            currents[piece] = outward * flows[rows]
            volts[point] = here[rows]
            flows[rows] += put_in[point]
        return np.concatenate([volts[:n], currents[self.owning], found[n + len(own) :]])

    def across_loads(self, x: Floats) -> Floats:
        """V across each load.

        Args:
            x: the unknowns, solved.
        """
        start, end = self.circuit.load_ends
        drop: Floats = x[start] - x[end]
        return drop

    def piece_currents(self, x: Floats) -> Floats:
        """What each piece carries (A), from start to end.

        Args:
            x: the unknowns, solved.
        """
        start, end = self.circuit.piece_ends
        out = np.zeros(len(self.ohms))
        np.divide(x[start] - x[end], self.ohms, out=out, where=~self.own)
        out[self.owning] = x[self.chains.n : self.first_source]
        return out

    def imbalance(self, x: Floats, drawn: Floats) -> float:
        """The largest current (A) or voltage (V) by which Kirchhoff's laws are not kept at x.

        `drawn` is what the loads draw there (A).
        """
        n, circuit, own = self.chains.n, self.circuit, self.owning
        ends = (circuit.piece_ends, circuit.source_ends, circuit.load_ends)
        carried = np.concatenate([self.piece_currents(x), x[self.first_source :], drawn])
        start, end = np.concatenate(ends, axis=1)
        flows = np.bincount(start, carried, n) - np.bincount(end, carried, n)
        start, end = np.concatenate([circuit.piece_ends[:, own], circuit.source_ends], axis=1)
        ohms = np.concatenate([self.ohms[own], circuit.internal])
        volts = x[start] - x[end] - ohms * x[n:] - self.rhs[n:]
        most = np.abs(flows[circuit.free]).max(initial=0.0)
        return float(max(most, np.abs(volts).max(initial=0.0)))
