"""Cornering the culprit: how probable each fault is, what to read next, when to stop.

Bayes' rule over the faults of `faults.py`: prior odds by kind of piece, a Gaussian of the meter's doubt
for each reading, a little chance that a reading is wrong altogether. The next pair of points is the one
expected to tell most bits per minute (D. V. Lindley, On a measure of the information provided by an
experiment, Annals of Mathematical Statistics 27, 1956).
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from .faults import FaultKind, FaultTable
from .odds import Odds
from .pieces import Access, Craft, FixedPiece, kind_of
from .runs import AnyPiece

Floats = NDArray[np.float64]
Class = tuple[str | None, FaultKind]
"""An element and what is wrong with it, whatever the size."""

SURE = 0.95
"""Beyond this probability one piece holds the evidence."""
WRONG_READING = 1e-4
"""Chance that a reading has nothing to do with the truth; then it may be anything up to RANGE_V."""
RANGE_V = 30.0
SIZE_STEP = 0.08
"""Sizes are tried in steps: the true one lies this share (one sigma) beside the one that is tried."""
TOLERANCE = 0.04
"""Good pieces stand this share (one sigma) off what the tables predict."""
LEAST_SIGMA_V = 2e-4
MISFIT = 14.0
"""A best single fault that misses the readings by more (chi squared per reading) is not alone."""
PAIR_ODDS = 0.02
"""How much rarer two faults at once are than either of them."""
MINUTES: Mapping[Access, float] = {"open": 0.4, "backprobe": 1.2, "trim": 6.0}
"""Minutes to bring a lead to a point; a parked lead costs little."""
PARKED_MINUTES, READ_MINUTES = 0.1, 0.3
MOST_FAULTS, ROUGHLY, CLOSELY = 3000, 400, 60
"""Cases that a probe is judged by: at most; when all pairs are looked at; and how many then closely."""


@dataclass(frozen=True, slots=True)
class Seen:
    """What a reading shows: V from red to black (or A through a load), with its half-width.

    `source_v` is the source read with it, where it was: volts counted over the load move with it.
    """

    red: str
    black: str
    volts: float
    accuracy: float
    source_v: float | None = None


@dataclass(frozen=True, slots=True)
class Suspect:
    """One element and what may be wrong with it; `ohm` is the likeliest excess."""

    element: str | None
    kind: FaultKind
    probability: float
    ohm: float | None


@dataclass(frozen=True, slots=True)
class Probe:
    """A pair of points to read next: what it is expected to tell, and what it costs."""

    red: str
    black: str
    bits: float
    minutes: float


@dataclass(frozen=True, slots=True)
class Cornered:
    """What the readings say: suspects, likeliest first; the next pair; whether to stop.

    `entropy` is what is still in doubt, in bits. `together` says that no single fault explains it.
    """

    suspects: tuple[Suspect, ...]
    next_probes: tuple[Probe, ...]
    done: bool
    entropy: float
    together: bool


@dataclass(slots=True)
class Corner:
    """The state of a search: a table of faults, and how probable each is before any reading."""

    table: FaultTable
    prior: Floats
    posts: tuple[str, str]
    classes: list[Class] = field(init=False)
    number: NDArray[np.intp] = field(init=False)
    per_size: Floats = field(init=False)
    """How volts at every point move with the logarithm of a fault's size, shape (faults, points)."""

    def __post_init__(self) -> None:
        keys = [(f.element, f.kind) for f in self.table.faults]
        self.classes = list(dict.fromkeys(keys))
        place = {key: i for i, key in enumerate(self.classes)}
        self.number = np.array([place[key] for key in keys])
        self.per_size = np.zeros_like(self.table.volts)
        for i, (_, kind) in enumerate(self.classes):
            own = np.flatnonzero(self.number == i)
            if kind == "excess_resistance" and len(own) > 1:
                sizes = np.log([self.table.faults[k].ohm for k in own])
                self.per_size[own] = np.gradient(self.table.volts[own], sizes, axis=0)

    # What the readings say

    def given(self, seen: Sequence[Seen], points: Mapping[str, Access]) -> Cornered:
        """The state of the search after these readings, with probes among these points.

        No battery stands at just the volts of the model: what the source was read at counts as the
        source of every reading that has none of its own, and says nothing of a fault by itself.
        """
        posts = [s.volts for s in seen if {s.red, s.black} == set(self.posts)]
        if posts:
            seen = [replace(s, source_v=abs(posts[-1])) if s.source_v is None else s for s in seen]
        logs, misfit = self._logs(seen)
        together = bool(seen) and misfit > MISFIT * len(seen)
        if together:
            pairs = _Pairs(self, seen)
            if pairs.better_than(misfit):
                return pairs.cornered(points)
        weights = _normal(np.log(self.prior) + logs)
        return self._cornered(weights, points)

    def _cornered(self, weights: Floats, points: Mapping[str, Access]) -> Cornered:
        by_class = np.bincount(self.number, weights, len(self.classes)).astype(float)
        suspects = []
        for i in np.argsort(-by_class):
            element, kind = self.classes[i]
            own = np.flatnonzero(self.number == i)
            ohm = self._size(own, weights) if kind == "excess_resistance" else None
            suspects.append(Suspect(element, kind, float(by_class[i]), ohm))
        done = suspects[0].probability >= SURE or _by_element(suspects)[0] >= SURE
        probes = () if done else tuple(self._probes(weights, points))
        return Cornered(tuple(suspects), probes, done, _entropy(by_class), False)

    def _size(self, own: NDArray[np.intp], weights: Floats) -> float:
        """The excess (ohm) in the middle of what a class's sizes are believed to be."""
        sizes = np.log([self.table.faults[k].ohm for k in own])
        return float(np.exp(np.average(sizes, weights=weights[own] + 1e-300)))

    def sigma(self, seen: Seen, shown: Floats) -> Floats:
        """One sigma (V) of a reading under each fault: the meter, the size's step, the tables."""
        red, black = self.table.points[seen.red], self.table.points[seen.black]
        added = SIZE_STEP * np.abs(self.per_size[:, red] - self.per_size[:, black])
        source = self.table.drop(*self.posts)[0]
        lost = min(abs(shown[0]), abs(source - abs(shown[0])))
        own = max(seen.accuracy / 2, LEAST_SIGMA_V)
        out: Floats = np.sqrt(own**2 + added**2 + (TOLERANCE * lost) ** 2)
        return out

    def compensated(self, seen: Seen) -> float:
        """The reading at the source's volts in the model; a sag counts only over the load."""
        if seen.source_v is None:
            return seen.volts
        shown = self.table.drop(seen.red, seen.black)[0]
        source = self.table.drop(*self.posts)[0]
        over_load = abs(shown) > abs(source) / 2
        moved = (source - seen.source_v) if over_load else 0.0
        return seen.volts + math.copysign(moved, seen.volts)

    def _logs(self, seen: Sequence[Seen]) -> tuple[Floats, float]:
        """Log likelihood of every fault, and the least chi squared of any."""
        logs = np.zeros(len(self.table.faults))
        chi = np.zeros(len(self.table.faults))
        for one in seen:
            shown = self.table.drop(one.red, one.black)
            sigma = self.sigma(one, shown)
            z = (self.compensated(one) - shown) / sigma
            chi += z**2
            right = -0.5 * z**2 - np.log(sigma * math.sqrt(2 * math.pi))
            logs += np.logaddexp(
                right + math.log1p(-WRONG_READING), math.log(WRONG_READING / RANGE_V)
            )
        return logs, float(chi.min(initial=math.inf)) if len(seen) else 0.0

    # What to read next

    def _probes(self, weights: Floats, points: Mapping[str, Access]) -> Iterable[Probe]:
        keep = np.flatnonzero(weights > 1e-6 * weights.max())
        keep = keep[np.argsort(-weights[keep])[:MOST_FAULTS]]
        return self.best_probes(self.table.volts[keep], self.number[keep], weights[keep], points)

    def best_probes(
        self, volts: Floats, number: NDArray[np.intp], weights: Floats, points: Mapping[str, Access]
    ) -> list[Probe]:
        """The best few pairs by bits a minute; cases by falling weight, with their class numbers.

        Every pair is looked at with the weightiest cases, the most telling ones with all of them.
        """
        first = self._told(self.pairs(points), slice(0, ROUGHLY), (volts, number, weights), points)
        pairs = [(p.red, p.black) for p in first[:CLOSELY]]
        return self._told(pairs, slice(None), (volts, number, weights), points)[:5]

    def _told(
        self,
        pairs: Iterable[tuple[str, str]],
        some: slice,
        cases: tuple[Floats, NDArray[np.intp], Floats],
        points: Mapping[str, Access],
    ) -> list[Probe]:
        volts, number = cases[0][some], cases[1][some]
        weights = cases[2][some] / cases[2][some].sum()
        found = []
        for red, black in pairs:
            shown = volts[:, self.table.points[red]] - volts[:, self.table.points[black]]
            bits = _information(shown, number, weights)
            minutes = READ_MINUTES + self._cost(red, points) + self._cost(black, points)
            found.append(Probe(red, black, bits, minutes))
        return sorted(found, key=lambda p: -p.bits / p.minutes)

    def pairs(self, points: Mapping[str, Access]) -> list[tuple[str, str]]:
        """Pairs worth asking about: every point against either post, and points near one another."""
        live, back = self.posts
        names = [p for p in points if p in self.table.points]
        order = sorted(names, key=lambda p: -float(self.table.volts[0, self.table.points[p]]))
        found = [(live, p) for p in names if p != live]
        found += [(p, back) for p in names if p not in (live, back)]
        for reach in range(1, 7):
            found += [
                (a, b)
                for a, b in zip(order, order[reach:], strict=False)
                if live not in (a, b) and back not in (a, b)
            ]
        return found

    def _cost(self, point: str, points: Mapping[str, Access]) -> float:
        return PARKED_MINUTES if point in self.posts else MINUTES[points[point]]


def prior_of(table: FaultTable, craft: Craft, odds: Odds) -> Floats:
    """How probable each fault of a table is before any reading: its kind's odds, over its sizes alike."""
    pieces: dict[str, AnyPiece] = {p.id: p for p in craft.pieces}
    loads = {x.id for x in craft.loads}
    sizes: dict[Class, int] = {}
    for f in table.faults:
        sizes[f.element, f.kind] = sizes.get((f.element, f.kind), 0) + 1
    out = np.empty(len(table.faults))
    for i, f in enumerate(table.faults):
        if f.element is None:
            out[i] = odds.of("none")[0]
        elif f.element in pieces:
            piece = pieces[f.element]
            style = (piece.style or "") if isinstance(piece, FixedPiece) else ""
            excess, opened = odds.of(kind_of(piece), style)
            out[i] = (opened if f.kind == "open" else excess) / sizes[f.element, f.kind]
        else:
            kind = "load" if f.element in loads else "source"
            out[i] = odds.of(kind)[0] / sizes[f.element, f.kind]
    total: Floats = out / out.sum()
    return total


def _normal(logs: Floats) -> Floats:
    shifted = np.exp(logs - logs.max())
    out: Floats = shifted / shifted.sum()
    return out


def _entropy(p: Floats) -> float:
    some = p[p > 0]
    return float(-(some * np.log2(some)).sum())


def _by_element(suspects: Iterable[Suspect]) -> list[float]:
    """Probabilities by element, whatever is wrong with it; the highest first."""
    sums: dict[str | None, float] = {}
    for s in suspects:
        sums[s.element] = sums.get(s.element, 0.0) + s.probability
    return sorted(sums.values(), reverse=True)


STEP_FLOOR_V, STEP_SHARE = 4e-3, 0.12
"""Two readings are told apart when they differ by this floor, or by this share of their size."""


def _information(shown: Floats, number: NDArray[np.intp], weights: Floats) -> float:
    """Mutual information (bits) between what a meter would show and which class is at fault.

    Readings are sorted into steps that can be told apart: fine near zero, coarser with size.
    """
    steps = np.floor(np.arcsinh(STEP_SHARE * shown / STEP_FLOOR_V) / STEP_SHARE + 0.5)
    place = np.unique(steps, return_inverse=True)[1]
    k = int(number.max()) + 1
    joint = np.bincount(place * k + number, weights, (int(place.max()) + 1) * k).astype(float)
    table = joint.reshape(-1, k)
    return _entropy(table.sum(axis=0)) + _entropy(table.sum(axis=1)) - _entropy(joint)


class _Pairs:
    """Two pieces at fault at once: what each takes adds up, as far as the loads hold their current."""

    def __init__(self, corner: Corner, seen: Sequence[Seen]) -> None:
        self.corner = corner
        table = corner.table
        rows: dict[str, int] = {}
        for i, f in enumerate(table.faults):
            if f.kind == "excess_resistance" and f.element is not None:
                rows.setdefault(f.element, i)
        self.elements, self.rows = list(rows), np.array(list(rows.values()))
        none = [table.drop(s.red, s.black)[0] for s in seen]
        sigmas = [
            max(s.accuracy / 2, LEAST_SIGMA_V, TOLERANCE * min(abs(n), 1.0))
            for s, n in zip(seen, none, strict=True)
        ]
        y = np.array(
            [(corner.compensated(s) - n) / d for s, n, d in zip(seen, none, sigmas, strict=True)]
        )
        self.ohms = np.array([table.faults[i].ohm for i in self.rows])
        unit = np.array(
            [
                (table.drop(s.red, s.black)[self.rows] - n) / d
                for s, n, d in zip(seen, none, sigmas, strict=True)
            ]
        ).reshape(len(seen), len(self.rows))
        self.a, self.b = np.triu_indices(len(self.rows), 1)
        self.times, self.chi = _fit(unit, y, self.a, self.b)

    def better_than(self, misfit: float) -> bool:
        """Whether some pair explains the readings far better than any single fault."""
        return len(self.chi) > 0 and float(self.chi.min()) < misfit / 4

    def cornered(self, points: Mapping[str, Access]) -> Cornered:
        """The state of the search among pairs."""
        corner = self.corner
        by_element = np.zeros(len(self.elements))
        for i, (element, kind) in enumerate(corner.classes):
            if kind == "excess_resistance" and element in self.elements:
                mass = corner.prior[corner.number == i].sum()
                by_element[self.elements.index(element)] = mass
        prior = np.log(by_element[self.a] * by_element[self.b] * PAIR_ODDS + 1e-300)
        weights = _normal(prior - 0.5 * self.chi)
        one = np.zeros(len(self.elements))
        np.add.at(one, self.a, weights)
        np.add.at(one, self.b, weights)
        size = np.zeros(len(self.elements))
        np.add.at(size, self.a, weights * self.times[:, 0])
        np.add.at(size, self.b, weights * self.times[:, 1])
        order = np.argsort(-one)
        suspects = [
            Suspect(
                self.elements[i], "excess_resistance", float(one[i]),
                float(size[i] / one[i] * self.ohms[i]) if one[i] > 1e-9 else None,
            )
            for i in order
        ]  # fmt: skip
        sure = len(order) > 1 and one[order[1]] >= SURE
        probes = () if sure else tuple(self._probes(weights, points))
        return Cornered(tuple(suspects), probes, bool(sure), _entropy(weights), True)

    def _probes(self, weights: Floats, points: Mapping[str, Access]) -> Iterable[Probe]:
        keep = np.argsort(-weights)[:400]
        w = weights[keep] / weights[keep].sum()
        table = self.corner.table
        none = table.volts[0]
        unit = table.volts[self.rows] - none
        t = self.times[keep]
        volts = none + t[:, :1] * unit[self.a[keep]] + t[:, 1:] * unit[self.b[keep]]
        return self.corner.best_probes(volts, np.arange(len(keep)), w, points)


def _fit(
    unit: Floats, y: Floats, a: NDArray[np.intp], b: NDArray[np.intp]
) -> tuple[Floats, Floats]:
    """Least squares of two non-negative amounts for every pair at once: amounts, chi squared."""
    gram, pull, rest = unit.T @ unit, unit.T @ y, float(y @ y)
    aa, bb, ab = gram[a, a], gram[b, b], gram[a, b]
    pa, pb = pull[a], pull[b]
    det = aa * bb - ab**2
    solid = det > 1e-9 * np.maximum(aa * bb, 1e-300)
    safe = np.where(solid, det, 1.0)
    ta, tb = (pa * bb - pb * ab) / safe, (pb * aa - pa * ab) / safe
    both = solid & (ta > 0) & (tb > 0)
    alone_a = np.maximum(pa, 0) / np.maximum(aa, 1e-300)
    alone_b = np.maximum(pb, 0) / np.maximum(bb, 1e-300)
    a_better = alone_a * pa >= alone_b * pb
    ta = np.where(both, ta, np.where(a_better, alone_a, 0.0))
    tb = np.where(both, tb, np.where(a_better, 0.0, alone_b))
    chi = rest - 2 * (ta * pa + tb * pb) + ta**2 * aa + tb**2 * bb + 2 * ta * tb * ab
    return np.stack([ta, tb], axis=1), np.maximum(chi, 0.0)
