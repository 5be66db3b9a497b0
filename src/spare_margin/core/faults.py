"""What a network would show under every fault that one piece, source or load may have.

Each fault is a change of rank one to the linear part: extra ohms in one branch are a series voltage
there, e = R_extra * i. The linear part is factored once and answered for a unit current drawn at each
load and a unit voltage in each branch (W. W. Hager, Updating the inverse of a matrix, SIAM Review 31,
1989); what is left for each fault is as many unknowns as there are loads, since only they bend.

Pieces that follow one another without a branch carry one current, so that extra ohms in any of them do
the same to everything but the points between them: they are worked out once for the whole chain.
"""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from .network import Network
from .pieces import Conductor, FixedPiece, Source

Floats = NDArray[np.float64]
Cases = slice | NDArray[np.intp]
FaultKind = Literal["none", "excess_resistance", "open", "load"]
OPEN_OHM = 1e6
"""An open piece still lets a voltmeter feel what lies behind it."""
SIZES_V = np.geomspace(0.02, 40.0, 48)
"""Excess resistances are tried that would take this many volts at the current that flows now."""
NO_CURRENT_A = 0.05
"""Where next to nothing flows now, sizes are reckoned with this current."""
LOAD_TIMES = (0.0, 0.3, 0.6, 1.6, 3.0)
"""What a faulty load may draw, in times of what it should."""
SHUNT_S = 1e-9
"""What every load lets through at least: keeps points that only a load holds from floating."""
FLAT_S = 1e-7
"""A load whose current changes by less per volt holds its current."""
STEPS, HALVINGS = 40, 14


@dataclass(frozen=True, slots=True)
class Fault:
    """One way in which the craft may be wrong: of which element, of what kind, how much.

    `ohm` is the excess resistance (infinity: open); `times` what a faulty load draws.
    """

    kind: FaultKind
    element: str | None
    ohm: float = 0.0
    times: float = 1.0


@dataclass(frozen=True, slots=True)
class FaultTable:
    """Faults, and the volts at every point under each: shape (faults, points).

    The first fault is none. `currents` are those of the loads, shape (faults, loads).
    """

    faults: tuple[Fault, ...]
    points: Mapping[str, int]
    volts: Floats
    loads: Mapping[str, int]
    currents: Floats

    def drop(self, red: str, black: str) -> Floats:
        """What a meter on these points would show under each fault (V)."""
        shown: Floats = self.volts[:, self.points[red]] - self.volts[:, self.points[black]]
        return shown


@dataclass(frozen=True, slots=True)
class _Branch:
    """A place for extra ohms: a chain of pieces, or a source. `sign` is +1 where a piece points on."""

    members: tuple[tuple[str, int], ...]
    inner: tuple[str, ...]
    row: int | None
    start: int
    end: int
    conductance: float


def fault_table(network: Network, suspects: Iterable[str]) -> FaultTable:
    """The table of faults of these elements (pieces, sources, loads, by id).

    `network` must have been solved; its wires stay as warm as they are.
    """
    return _Builder(network, set(suspects)).table()


class _Builder:
    def __init__(self, network: Network, suspects: set[str]) -> None:
        assert network.last is not None, "faults are felt against what was solved before"
        assert network.system is not None
        self.network, self.system, self.suspects = network, network.system, suspects
        self.ohms = network.last.ohms
        self.loads = network.loads
        craft = network.craft
        self.branches = [*self._chains(), *map(self._source, craft.sources)]
        self.branches = [b for b in self.branches if any(k in suspects for k, _ in b.members)]
        self._respond()

    # Where extra ohms may be

    def _chains(self) -> list[_Branch]:
        """Pieces strung together through points that nothing else touches."""
        craft = self.network.craft
        ends: dict[str, list[str]] = {}
        for piece in self.network.pieces:
            for point in (piece.start, piece.end):
                ends.setdefault(point, []).append(piece.id)
        held = {p for x in craft.loads for p in (x.start, x.end)}
        held |= {p for s in craft.sources for p in (s.live, s.back)}
        pieces = {p.id: p for p in self.network.pieces}
        through = {
            p for p, at in ends.items() if len(at) == 2 and p not in held and len(set(at)) == 2
        }
        seen: set[str] = set()
        out = []
        for piece in self.network.pieces:
            if piece.id not in seen:
                chain = self._chain(piece, pieces, ends, through)
                seen |= {key for key, _ in chain[0]}
                out.append(self._branch(*chain))
        return out

    @staticmethod
    def _chain(
        piece: Conductor | FixedPiece,
        pieces: Mapping[str, Conductor | FixedPiece],
        ends: Mapping[str, list[str]],
        through: set[str],
    ) -> tuple[list[tuple[str, int]], list[str]]:
        """The members of a piece's chain with their directions, and the points between them."""
        members, inner = [(piece.id, 1)], list[str]()
        for forward in (True, False):
            at, point = piece.id, piece.end if forward else piece.start
            while point in through:
                nxt = next(k for k in ends[point] if k != at)
                if any(nxt == k for k, _ in members):
                    break
                other = pieces[nxt]
                on = other.start == point
                if forward:
                    members.append((nxt, 1 if on else -1))
                    inner.append(point)
                else:
                    members.insert(0, (nxt, -1 if on else 1))
                    inner.insert(0, point)
                at, point = nxt, other.end if on else other.start
        return members, inner

    def _branch(self, members: list[tuple[str, int]], inner: list[str]) -> _Branch:
        key, sign = members[0]
        i = self.network.places[key]
        start, end = (int(x) for x in self.network.piece_ends[:, i])
        own = int(np.count_nonzero(self.system.own[:i])) if self.system.own[i] else None
        row = None if own is None else len(self.network.index) + own
        return _Branch(
            tuple((k, s * sign) for k, s in members),
            tuple(inner),
            row, start, end, 0.0 if row is not None else 1 / float(self.ohms[i]),
        )  # fmt: skip

    def _source(self, source: Source) -> _Branch:
        place = [s.id for s in self.network.craft.sources].index(source.id)
        first = len(self.network.index) + int(np.count_nonzero(self.system.own))
        start, end = (int(x) for x in self.network.source_ends[:, place])
        return _Branch(((source.id, 1),), (), first + place, start, end, 0.0)

    # What the linear part answers

    def _respond(self) -> None:
        """Answers to a unit drawn at each load, a unit in each branch, and the sources themselves."""
        size, n = self.system.size, len(self.loads)
        columns = np.zeros((size, n + len(self.branches) + 1))
        for j in range(n):
            columns[self.network.load_ends[0][j], j] -= 1
            columns[self.network.load_ends[1][j], j] += 1
        for j, branch in enumerate(self.branches, n):
            if branch.row is not None:
                columns[branch.row, j] += 1
            else:
                columns[branch.start, j] += branch.conductance
                columns[branch.end, j] -= branch.conductance
        columns[:, -1] = self.system.rhs
        shunt = np.full(n, SHUNT_S)
        answers = self.system.responses(shunt, columns)
        self.by_load, self.by_branch, self.alone = answers[:, :n], answers[:, n:-1], answers[:, -1]
        starts, ends = self.network.load_ends
        self.across = answers[starts] - answers[ends]

    def _current(self, j: int, branch: _Branch) -> tuple[float, Floats, float]:
        """The branch's current: with nothing drawn, per ampere of each load, per own volt."""
        if branch.row is not None:
            return (
                float(self.alone[branch.row]), self.by_load[branch.row],
                float(self.by_branch[branch.row, j]),
            )  # fmt: skip
        g, a, b = branch.conductance, branch.start, branch.end
        per_load: Floats = g * (self.by_load[a] - self.by_load[b])
        own = g * (float(self.by_branch[a, j] - self.by_branch[b, j]) - 1)
        return g * float(self.alone[a] - self.alone[b]), per_load, own

    # Faults

    def table(self) -> FaultTable:
        """Every fault in turn."""
        n = len(self.loads)
        none = _Bends(self, self.across[:, -1][None], np.ones((1, n)))
        volts = none.settle(self.across[:, -1] + self.across[:, :n] @ self._drawn())
        faults, rows, drawn = [Fault("none", None)], [self._points(none.amps)], [none.amps]
        for j, branch in enumerate(self.branches):
            for fault, points, amps in self._of_branch(j, branch, none.amps[0], volts[0]):
                faults += fault
                rows.append(points)
                drawn.append(amps)
        for i, load in enumerate(self.loads):
            if load.id in self.suspects:
                scale = np.ones((len(LOAD_TIMES), n))
                scale[:, i] = LOAD_TIMES
                bends = _Bends(self, np.repeat(self.across[:, -1][None], len(scale), 0), scale)
                bends.settle(volts[0])
                faults += [Fault("load", load.id, times=times) for times in LOAD_TIMES]
                rows.append(self._points(bends.amps))
                drawn.append(bends.amps)
        return FaultTable(
            tuple(faults),
            self.network.index,
            np.concatenate(rows),
            {load.id: i for i, load in enumerate(self.loads)},
            np.concatenate(drawn),
        )

    def _drawn(self) -> Floats:
        assert self.network.last is not None
        across = self.system.across_loads(self.network.last.x)
        return self.network.laws.current(across)

    def _of_branch(
        self, j: int, branch: _Branch, amps: Floats, volts: Floats
    ) -> Iterable[tuple[list[Fault], Floats, Floats]]:
        """The faults of a branch's members; `amps`, `volts` of the loads as they should be."""
        alone, per_load, own = self._current(j, branch)
        n, nodes = len(self.loads), len(self.network.index)
        flows = alone + float(per_load @ amps)
        sizes = np.append(SIZES_V / max(abs(flows), NO_CURRENT_A), OPEN_OHM)
        share = sizes / (1 - sizes * own)
        into = self.across[:, n + j]
        bends = _Bends(
            self,
            self.across[:, -1] + np.outer(share * alone, into),
            np.ones((len(sizes), n)),
            share,
            into,
            per_load,
        )
        bends.settle(volts)
        lost = share * (alone + bends.amps @ per_load)
        points = self._points(bends.amps) + np.outer(lost, self.by_branch[:nodes, j])
        is_source = branch.members[0][0] not in self.network.places
        for place, (key, _) in enumerate(branch.members):
            if place:
                # The points up to this member lie before the extra ohms now, not behind them.
                points = points.copy()
                points[:, self.network.index[branch.inner[place - 1]]] += lost
            if key not in self.suspects:
                continue
            faults = [Fault("excess_resistance", key, float(ohm)) for ohm in sizes[:-1]]
            if is_source:
                yield faults, points[:-1], bends.amps[:-1]
            else:
                yield [*faults, Fault("open", key, math.inf)], points, bends.amps

    def _points(self, amps: Floats) -> Floats:
        nodes = len(self.network.index)
        found: Floats = self.alone[:nodes] + amps @ self.by_load[:nodes].T
        return found


class _Bends:
    """Volts across the loads where V = offset + Z I(V) + into * share * (per_load . I(V)).

    Many cases at once, shape (cases, loads); `scale` is what each load draws of what it should.
    """

    def __init__(
        self,
        builder: _Builder,
        offset: Floats,
        scale: Floats,
        share: Floats | None = None,
        into: Floats | None = None,
        per_load: Floats | None = None,
    ) -> None:
        n = len(builder.loads)
        self.laws, self.z = builder.network.laws, builder.across[:, :n]
        self.offset, self.scale = offset, scale
        self.share = np.zeros(len(offset)) if share is None else share
        self.into = np.zeros(n) if into is None else into
        self.per_load = np.zeros(n) if per_load is None else per_load
        self.amps = np.zeros_like(offset)

    def settle(self, near: Floats) -> Floats:
        """Newton from these volts, every step a gain; the volts, and `amps` with them.

        Where much stands in the way, the loads behind it start from nothing instead.
        """
        volts = np.repeat(near[None], len(self.offset), 0)
        left = self._miss(volts, slice(None))
        starved = volts * (np.abs(self.per_load) < 0.5)
        without = self._miss(starved, slice(None))
        nearer = np.abs(without).max(axis=1, initial=0.0) < np.abs(left).max(axis=1, initial=0.0)
        volts[nearer], left[nearer] = starved[nearer], without[nearer]
        alive = np.ones(len(volts), dtype=bool)
        again = np.ones(len(volts), dtype=bool)
        for _ in range(STEPS):
            worst = np.abs(left).max(axis=1, initial=0.0)
            open_ = np.flatnonzero((worst > 1e-9) & alive)
            if not len(open_):
                break
            step = self._step(volts[open_], left[open_], open_)
            share = np.ones(len(open_))
            for _ in range(HALVINGS):
                trial = volts[open_] + share[:, None] * step
                after = self._miss(trial, open_)
                gained = np.abs(after).max(axis=1) <= worst[open_] * (1 - 1e-3 * share)
                if gained.all():
                    break
                share = np.where(gained, share, share / 2)
            volts[open_[gained]], left[open_[gained]] = trial[gained], after[gained]
            # What gains nothing any more starts once again from nothing, and is then left as it is.
            stuck = open_[~gained]
            fresh = stuck[again[stuck]]
            alive[stuck[~again[stuck]]] = False
            again[fresh] = False
            if len(fresh):
                volts[fresh] = 0.0
                left[fresh] = self._miss(volts[fresh], fresh)
        self.amps = self._law(volts, slice(None))
        return volts

    def _law(self, volts: Floats, cases: Cases) -> Floats:
        """What the loads draw at these volts, less what the shunts draw already."""
        drawn: Floats = self.scale[cases] * self.laws.current(volts) - SHUNT_S * volts
        return drawn

    def _miss(self, volts: Floats, cases: Cases) -> Floats:
        amps = self._law(volts, cases)
        bent = np.outer(self.share[cases] * (amps @ self.per_load), self.into)
        left: Floats = volts - self.offset[cases] - amps @ self.z.T - bent
        return left

    def _step(self, volts: Floats, left: Floats, cases: NDArray[np.intp]) -> Floats:
        """The step that the bending loads ask for; those that hold their current only follow."""
        slope = self.scale[cases] * self.laws.slope(volts)
        bent = np.abs(slope) > FLAT_S
        rows, bends = np.flatnonzero(bent.any(axis=1)), np.flatnonzero(bent.any(axis=0))
        step = -left
        if not len(bends):
            return step
        ours, left = slope[np.ix_(rows, bends)], left[rows]
        share = self.share[cases[rows]][:, None, None]
        columns = (self.z[:, bends] + share * np.outer(self.into, self.per_load[bends])) * ours[
            :, None
        ]
        own = np.linalg.solve(np.eye(len(bends)) - columns[:, bends], -left[:, bends, None])[..., 0]
        step[rows] += np.einsum("clb,cb->cl", columns, own)
        step[np.ix_(rows, bends)] = own
        return step
