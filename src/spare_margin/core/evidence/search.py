"""The search for what is wrong: the circuits of every moment, the faults, and their weights.

One fault at a time, then two by best-first search where no single one explains the readings: each of the
likeliest single faults is put into the craft, and every other is weighed on top of it.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr
from scipy.stats import chi2

from spare_margin.core.circuit.loads import UNKNOWN_A
from spare_margin.core.circuit.network import SolvedCraft
from spare_margin.core.circuit.runs import Run
from spare_margin.core.errors import NoSolution
from spare_margin.core.measure.findings import Finding
from spare_margin.core.model.fixed_pieces import expected
from spare_margin.core.model.jobs import Outcome
from spare_margin.core.model.pieces import Craft, FixedPiece, Scenario, kind_of
from spare_margin.core.model.tables import Tables

from .circuits import AS_DRAWN, Adjusted, Circuit, solved_as
from .faults import (
    NO_CURRENT_A,
    NO_SIZE,
    OPEN,
    OPEN_OHM,
    FaultClass,
    Sizes,
    excess_sizes,
    load_sizes,
    prior,
    suspects_of,
)
from .mixture import Cases, Weighed, gather, weighed
from .moments import Conditions, warm_order
from .observations import Observation, Observed
from .parameters import Floats, Parameters, emf_key, parameters
from .responses import Row
from .ways import cut_apart

Base = tuple[str, float]
"""A piece or source, and the ohms of the fault in it that stands while others are weighed."""
PAIR_ODDS = 0.02
"""How much rarer two faults at once are than either of them."""
MISFIT = 2e-3
"""Where the best single fault explains the readings no better than this chance, two are looked for."""
BASES, SECOND_BASES = 5, 2
LINEARISED = 2.0
LEAST_CLAMPED_A = 0.05
DOUBTED = 0.9
"""A reading that is this probably wrong is set aside, and said so."""
SURE = 0.95
"""Beyond this probability one element holds the evidence."""
RIGHT_SHARE, RIGHT_SIGMA = 0.93, 0.03
"""A load that comes right gets this share of its volts at least."""


@dataclass(frozen=True, slots=True)
class Suspect:
    """One element and what may be wrong with it; `ohm` is the likeliest excess, `times` a load's draw."""

    element: str | None
    kind: str
    probability: float
    ohm: float | None = None
    times: float | None = None


@dataclass(frozen=True)
class Search:
    """What the readings say of the faults in scope.

    Attributes:
        scope: pieces, sources and loads that may be at fault.
        observed: the readings taken into account.
        weighed: the faults with their weights; also those of two at once.
    """

    craft: Craft
    tables: Tables
    scope: tuple[str, ...]
    observed: Observed
    parameters: Parameters
    circuits: Mapping[str, Circuit]
    weighed: Weighed
    bases: Mapping[str, Base]
    points: Mapping[str, Adjusted]
    order: tuple[str, ...]
    findings: tuple[Finding, ...]
    set_aside: frozenset[str]

    @cached_property
    def suspects(self) -> tuple[Suspect, ...]:
        """Every element and kind by its probability, the likeliest first.

        With two faults at once both of a pair are suspected by it, so that these may sum to two.
        """
        cases = self.weighed.cases
        sums: dict[tuple[str | None, str], float] = {}
        sizes: dict[tuple[str | None, str], list[tuple[float, float]]] = {}
        for i, fault in enumerate(cases.classes):
            for each in (fault, *filter(None, (fault.beside,))):
                key = each.element, each.kind
                sums[key] = sums.get(key, 0.0) + float(self.weighed.by_class[i])
            own = np.flatnonzero(cases.number == i)
            if fault.kind in ("excess_resistance", "load"):
                held = sizes.setdefault((fault.element, fault.kind), [])
                logs = np.log(cases.sizes[own]) + self._size_shift(own)
                held += list(zip(logs, self.weighed.weights[own], strict=True))
        out = []
        for (element, kind), p in sums.items():
            logs_ = sizes.get((element, kind), [])
            total = sum(w for _, w in logs_)
            size = float(np.exp(sum(x * w for x, w in logs_) / total)) if total > 1e-12 else None
            out.append(
                Suspect(
                    element, kind, min(p, 1.0),
                    size if kind == "excess_resistance" else None,
                    size if kind == "load" else None,
                )
            )  # fmt: skip
        return tuple(sorted(out, key=lambda s: -s.probability))

    def _size_shift(self, own: NDArray[np.intp]) -> Floats:
        """How far the readings move the logarithm of each case's size within its step."""
        w = self.weighed
        by_size = w.cases.by_size[own]
        pulled = np.einsum("kop,kp->ko", w.precision[own], w.residuals[own])
        shift: Floats = (w.cases.cells[own] ** 2) * np.einsum("ko,ko->k", by_size, pulled)
        return np.clip(shift, -2.5 * w.cases.cells[own], 2.5 * w.cases.cells[own])

    @cached_property
    def by_element(self) -> Mapping[str | None, float]:
        """Probability that an element is at fault, whatever is wrong with it; None: nothing is."""
        sums: dict[str | None, float] = {}
        for i, fault in enumerate(self.weighed.cases.classes):
            for element in fault.elements or {None}:
                sums[element] = sums.get(element, 0.0) + float(self.weighed.by_class[i])
        return dict(sorted(sums.items(), key=lambda pair: -pair[1]))

    @cached_property
    def together(self) -> bool:
        """Whether two faults at once explain the readings better than any single one."""
        pairs = sum(
            float(p)
            for p, fault in zip(self.weighed.by_class, self.weighed.cases.classes, strict=True)
            if fault.beside is not None
        )
        return pairs > 0.5


def search(
    craft: Craft,
    runs: Sequence[Run],
    observed: Observed,
    tables: Tables,
) -> Search:
    """Weigh every fault of these runs by what was observed.

    Without an observation the weights are the prior's. JobError where the craft cannot be solved.
    """
    scope = _Scope(craft, runs, observed, tables)
    found = scope.search(observed)
    doubted = [
        (p, o) for p, o in zip(found.weighed.doubted, observed.values, strict=True) if p > DOUBTED
    ]
    if not doubted:
        return found
    _, worst = max(doubted, key=lambda pair: pair[0])
    rest = replace(observed, values=tuple(o for o in observed.values if o is not worst))
    again = search(craft, runs, rest, tables)
    misses = Finding("does_not_fit", (worst.reading,), facts=_missed(found, worst, observed))
    return replace(
        again,
        findings=(misses, *again.findings),
        set_aside=again.set_aside | {worst.reading},
    )


def _missed(found: Search, worst: Observation, observed: Observed) -> dict[str, float | str]:
    """By how much a reading misses what the others say of its span."""
    w = found.weighed
    i, at = w.best(), observed.values.index(worst)
    pulled = w.precision[i] @ w.residuals[i]
    missed = float(pulled[at] / w.precision[i, at, at])
    return {worst.quantity: worst.value, "missed": missed}


class _Scope:
    """What may be at fault, laid out once for the readings."""

    def __init__(
        self, craft: Craft, runs: Sequence[Run], observed: Observed, tables: Tables
    ) -> None:
        self.craft, self.runs, self.tables = craft, runs, tables
        self.pieces = list(dict.fromkeys(s.piece.id for run in runs for s in run.steps()))
        self.unknown = {p.id for p in craft.pieces if kind_of(p) == "unknown"}
        purpose = {s.piece.id for run in runs for s in run.steps() if s.on_purpose}
        self.loads = [run.load.id for run in runs]
        self.sources = list(dict.fromkeys(run.source.id for run in runs))
        self.suspected = [p for p in self.pieces if p not in purpose] + sorted(purpose)
        on = {key for c in observed.conditions for key in c.running} | set(self.loads)
        self.parameters = parameters(craft, observed, self._carrying(observed, on), on, tables)

    def _carrying(self, observed: Observed, on: Iterable[str]) -> list[str]:
        """Pieces whose tolerance matters: those in scope, and those that other loads' current passes."""
        if not observed.conditions or set(on) <= set(self.loads):
            return self.pieces
        return [p.id for p in self.craft.pieces]

    def search(self, observed: Observed) -> Search:
        points = self._points(observed)
        ohm_times = self._read_alone(observed)
        points = {key: replace(point, ohm_times=ohm_times) for key, point in points.items()}
        circuits = self._circuits(observed, points)
        self._aim(observed, points)
        order = self._order(observed, circuits)
        classes = self._classes(circuits, order)
        cases = self._cases(classes, circuits, observed, order)
        found = self._weigh(cases, circuits, observed)
        bases: dict[str, Base] = {}
        freedom = max(len(observed.values), 1)
        if len(observed.values) >= 3 and chi2.sf(found.misfit, freedom) < MISFIT:
            found, bases = self._pairs(found, observed, points, order)
        return Search(
            self.craft, self.tables, tuple([*self.suspected, *self.sources, *self.loads]), observed,
            self.parameters, circuits, found, bases, points, order, (), frozenset(),
        )  # fmt: skip

    # The circuits

    def _points(self, observed: Observed) -> dict[str, Adjusted]:
        """What is linearised about in each moment: the source as it was read, a load's own clamp."""
        out: dict[str, Adjusted] = {}
        for conditions in observed.conditions:
            key = emf_key(conditions.key)
            if key in out:
                continue
            emf: dict[str, float] = {}
            times: dict[str, float] = {}
            for o in observed.values:
                if emf_key(o.conditions.key) != key:
                    continue
                for source in self.craft.sources:
                    if o.quantity == "volts" and {o.red, o.black} == {source.live, source.back}:
                        emf[source.id] = abs(o.value)
                for load in self.craft.loads:
                    unknown = load.behaviour is None and o.through == load.id
                    if unknown and abs(o.value) > LEAST_CLAMPED_A:
                        times[load.id] = abs(o.value) / UNKNOWN_A
            out[key] = Adjusted({}, {}, times, emf, {})
        return out

    def _read_alone(self, observed: Observed) -> dict[str, float]:
        """Pieces that were read by themselves, in times of what is drawn: linearised about that.

        Resistances are log-normal: a joint at three times its drawing is one at the end of what age
        excuses, no fault. No further than LINEARISED standard deviations, and the least of all moments.
        """
        out: dict[str, float] = {}
        for o in observed.values:
            if o.quantity != "volts" or o.conditions.trial is not None:
                continue
            for run in self.runs:
                between = run.between(o.red, o.black)
                if between is None or len(between.pieces) != 1:
                    continue
                key = between.pieces[0]
                if key in self.unknown:
                    continue
                sigma = float(self.parameters.sigma[self.parameters.index["piece", key]])
                drawn = self._drawn_drop(observed, o, run, key)
                if drawn is None or abs(o.value) < 3 * o.sigma:
                    continue
                most = np.exp(LINEARISED * sigma)
                times = float(np.clip(abs(o.value) / drawn, 1 / most, most))
                out[key] = min(out.get(key, times), times)
        return out

    def _drawn_drop(self, observed: Observed, o: Observation, run: Run, piece: str) -> float | None:
        """What a piece would drop as drawn (V) at the current that was read, or is drawn."""
        solved = solved_resting(
            o.conditions.craft(self.craft), o.conditions.scenario, self.tables, AS_DRAWN
        )
        state = solved.solution.elements[piece]
        nominal = abs(solved.solution.elements[run.load.id].current_a)
        if run.load.id not in o.conditions.running or not nominal or state.resistance_ohm is None:
            return None
        clamps = [
            c for c in observed.values
            if c.through == run.load.id and c.conditions.key == o.conditions.key
        ]  # fmt: skip
        share = abs(clamps[-1].value) / nominal if clamps else 1.0
        alone = abs(abs(state.current_a) - nominal) < 0.01 * nominal
        amps = abs(state.current_a) * (share if alone else 1.0)
        return amps * state.resistance_ohm if amps > NO_CURRENT_A else None

    def _aim(self, observed: Observed, points: Mapping[str, Adjusted]) -> None:
        """The means of the unknowns against what is linearised about."""
        mean = self.parameters.mean
        for point in points.values():
            for key, times in point.ohm_times.items():
                mean[self.parameters.index["piece", key]] = -np.log(times)
        for conditions in observed.conditions:
            key = emf_key(conditions.key)
            for source in self.craft.sources:
                column = self.parameters.index.get(("emf", f"{source.id} {key}"))
                lin = points[key].emf_v.get(source.id)
                if column is not None and lin is not None:
                    mean[column] = conditions.scenario.source(source).open_circuit_v - lin

    def _circuits(
        self, observed: Observed, points: Mapping[str, Adjusted], base: Base | None = None
    ) -> dict[str, Circuit]:
        return {
            c.key: self.circuit(c, rows_of(observed, c), points[emf_key(c.key)], base)
            for c in observed.conditions
        }

    def circuit(
        self, c: Conditions, rows: Sequence[Row], point: Adjusted, base: Base | None = None
    ) -> Circuit:
        """The circuit of some conditions, watched at these rows."""
        solved = solved_resting(
            c.craft(self.craft), c.scenario, self.tables, with_base(point, base)
        )
        return Circuit(solved, rows, self.parameters, emf_key(c.key), base=base)

    def _order(self, observed: Observed, circuits: Mapping[str, Circuit]) -> tuple[str, ...]:
        """Loaded moments by warm-up, where more than one was read."""
        loaded = [c for c in observed.conditions if c.trial is None and set(self.loads) & c.running]
        order = warm_order(loaded)
        read = {o.conditions.key for o in observed.values}
        kept = tuple(key for key in order if key in read)
        return kept if len(kept) > 1 else ()

    # The faults

    def _classes(
        self, circuits: Mapping[str, Circuit], order: Sequence[str]
    ) -> list[tuple[FaultClass, Sizes, float]]:
        faults = suspects_of(self.suspected, self.sources, self.loads, order[1:])
        odds = prior(self.craft, faults, self.tables.odds)
        amps = {
            key: max((abs(c.carries(key)) for c in circuits.values()), default=0.0)
            for key in (*self.suspected, *self.sources)
        }
        typical = max(amps.values(), default=0.0)
        return [
            (fault, self._sizes(fault, amps, typical), float(p))
            for fault, p in zip(faults, odds, strict=True)
        ]

    def _sizes(self, fault: FaultClass, amps: Mapping[str, float], typical: float) -> Sizes:
        if fault.kind == "excess_resistance":
            key = fault.element or ""
            return excess_sizes(amps.get(key, 0.0) or typical, self._excused(key))
        if fault.kind == "load":
            return load_sizes()
        return OPEN if fault.kind == "open" else NO_SIZE

    def _excused(self, key: str) -> float:
        """Half the ohms that age excuses in a fixed piece: less is no fault of it."""
        piece = next((p for p in self.craft.pieces if p.id == key), None)
        if not isinstance(piece, FixedPiece) or piece.kind == "unknown":
            return 0.0
        found = expected(piece, self.tables.fixed)
        return 0.5 * (found.aged_ohm - found.good_ohm)

    def _cases(
        self,
        classes: Sequence[tuple[FaultClass, Sizes, float]],
        circuits: Mapping[str, Circuit],
        observed: Observed,
        order: Sequence[str],
    ) -> Cases:
        places = [(key, circuit, places_of(observed, key)) for key, circuit in circuits.items()]
        cases = gather(classes, places, order, len(self.parameters.keys))
        factor = cases.factor + self._beside_numbers(cases, circuits, observed)
        return replace(cases, factor=factor)

    def _weigh(self, cases: Cases, circuits: Mapping[str, Circuit], observed: Observed) -> Weighed:
        columns = {
            i: [column for column, _ in circuits[o.conditions.key].emf_columns]
            for i, o in enumerate(observed.values)
        }
        return weighed(cases, self.parameters, observed.values, self.craft.nominal_v, columns)

    # What is no number

    def _beside_numbers(
        self, cases: Cases, circuits: Mapping[str, Circuit], observed: Observed
    ) -> Floats:
        out = np.zeros(len(cases.number))
        for silence in observed.silences:
            cut = np.array(
                [
                    cut_apart(
                        silence.conditions.craft(self.craft), silence.conditions.scenario,
                        {e for f in (fault, fault.beside) if f and f.kind == "open" for e in
                         filter(None, (f.element,))},
                        silence.red, silence.black,
                    )
                    for fault in cases.classes
                ]
            )[cases.number]  # fmt: skip
            if silence.joined is None:
                out += np.log(np.where(cut, 0.6, 0.02))
            else:
                out += np.log(np.where(cut != silence.joined, 0.9, 0.02))
        for trial, conditions in observed.trials:
            out += self._trial(cases, circuits, conditions, trial.outcome, observed)
        return out

    def _trial(
        self,
        cases: Cases,
        circuits: Mapping[str, Circuit],
        conditions: Conditions,
        outcome: Outcome | None,
        observed: Observed,
    ) -> Floats:
        """Log likelihood of how the load came out of a trial, by case."""
        run = self.runs[0]
        row: Row = ("volts", run.feed_terminal, run.return_terminal)
        plain = replace(conditions, key=emf_key(conditions.key), trial=None)
        point = self._points(observed).get(plain.key, AS_DRAWN)
        got = [_row_values(cases, self.circuit(c, [row], point)) for c in (conditions, plain)]
        healthy = max(abs(got[1][0]), 1e-6)
        tried, before = np.abs(got[0]) / healthy, np.abs(got[1]) / healthy
        gained = tried - before
        if outcome == "right":
            said = ndtr((tried - RIGHT_SHARE) / RIGHT_SIGMA) * np.maximum(
                ndtr((gained - 0.02) / 0.01), 0.05
            )
        elif outcome == "partly":
            said = ndtr((gained - 0.03) / 0.02) * ndtr((0.97 - tried) / RIGHT_SIGMA)
        else:
            said = ndtr((0.04 - gained) / 0.02)
        likely: Floats = np.log(np.clip(said, 1e-3, 1.0))
        return likely

    # Two at once

    def _pairs(
        self,
        single: Weighed,
        observed: Observed,
        points: Mapping[str, Adjusted],
        order: Sequence[str],
    ) -> tuple[Weighed, dict[str, Base]]:
        """Singles and pairs together, the latter on top of the likeliest singles.

        Alone, a fault was made as large as both; so the likeliest second faults are then taken for the
        first, in the size they have beside another, and every other is weighed on top of them again.
        """
        bases = dict[str, Base]()
        parts = [single.cases]
        circuits = self._circuits(observed, points)
        for most in (BASES, SECOND_BASES):
            found = self._weigh(_together(parts), circuits, observed)
            for fault, size in self._heaviest(found, most, paired=len(parts) > 1):
                base = (fault.element or "", min(size, OPEN_OHM))
                parts = [p for p in parts if not _stands_on(p, base[0])]
                parts.append(self._on_top(fault, base, observed, points, order))
                bases[base[0]] = base
        return self._weigh(_together(parts), circuits, observed), bases

    def _on_top(
        self,
        fault: FaultClass,
        base: Base,
        observed: Observed,
        points: Mapping[str, Adjusted],
        order: Sequence[str],
    ) -> Cases:
        """Every other fault on top of one that stands; both orders of a pair share its odds."""
        circuits = self._circuits(observed, points, base)
        classes = self._classes(self._circuits(observed, points), order)
        own = sum(p for f, _, p in classes if f.element == fault.element and f.kind == fault.kind)
        rest = [
            (replace(f, beside=fault), sizes, 0.5 * p * PAIR_ODDS * own)
            for f, sizes, p in classes
            if f.element not in (None, fault.element)
        ]
        return self._cases(rest, circuits, observed, order)

    def _heaviest(self, found: Weighed, most: int, paired: bool) -> list[tuple[FaultClass, float]]:
        """The faults of pieces that explain most, each in its best size; the second ones of pairs."""
        out: list[tuple[FaultClass, float]] = []
        cases = found.cases
        seen: set[str] = set()
        for i in np.argsort(-found.log_evidence):
            fault = cases.classes[cases.number[i]]
            if (fault.beside is not None) != paired or fault.since or fault.element is None:
                continue
            if fault.kind not in ("excess_resistance", "open") or fault.element in self.loads:
                continue
            if fault.element not in seen:
                seen.add(fault.element)
                out.append((FaultClass(fault.element, fault.kind), float(cases.sizes[i])))
                if len(out) == most:
                    break
        return out


def _stands_on(cases: Cases, element: str) -> bool:
    beside = cases.classes[0].beside
    return beside is not None and beside.element == element


def solved_resting(
    craft: Craft, scenario: Scenario, tables: Tables, point: Adjusted
) -> SolvedCraft:
    """The craft solved at a point, loads that no volts can feed left off."""
    while True:
        try:
            return solved_as(craft, scenario, tables, point)
        except NoSolution as stalled:
            scenario = replace(scenario, on=scenario.on - {stalled.load_id})


def rows_of(observed: Observed, conditions: Conditions) -> list[Row]:
    """What was observed under these conditions, as rows to watch."""
    out: list[Row] = []
    for o in observed.values:
        if o.conditions.key == conditions.key:
            out.append(_row_of(o))
    return out


def _row_of(o: Observation) -> Row:
    if o.quantity == "volts":
        return ("volts", o.red, o.black)
    return ("amperes", o.through, o.red)


def places_of(observed: Observed, key: str) -> NDArray[np.intp]:
    """Which observations belong to these conditions."""
    return np.array(
        [i for i, o in enumerate(observed.values) if o.conditions.key == key], dtype=np.intp
    )


def _row_values(cases: Cases, circuit: Circuit) -> Floats:
    made = gather(
        [
            (fault, Sizes(cases.sizes[cases.number == i], 0.0), 1.0)
            for i, fault in enumerate(cases.classes)
        ],
        [("", circuit, np.zeros(1, dtype=np.intp))],
        (),
        len(circuit.parameters.keys),
    )
    return made.values[:, 0]


def with_base(point: Adjusted, base: Base | None) -> Adjusted:
    """A point with the ohms of a fault that stands."""
    return point if base is None else replace(point, more_ohm={**point.more_ohm, base[0]: base[1]})


def _together(parts: Sequence[Cases]) -> Cases:
    """Cases of several kinds as one."""
    shift = np.cumsum([0, *(len(part.classes) for part in parts[:-1])])

    def joined(name: str) -> Floats:
        return np.concatenate([getattr(part, name) for part in parts])

    return Cases(
        classes=tuple(fault for part in parts for fault in part.classes),
        number=np.concatenate([p.number + s for p, s in zip(parts, shift, strict=True)]),
        sizes=joined("sizes"),
        cells=joined("cells"),
        log_prior=joined("log_prior"),
        values=joined("values"),
        slopes=joined("slopes"),
        by_size=joined("by_size"),
        moments=parts[0].moments,
        factor=joined("factor"),
    )
