"""The search for what is wrong: every fault weighed by what was observed, one at a time, then two."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.special import chdtrc

from spare_margin.core.circuit.runs import Run
from spare_margin.core.evidence.observation.observations import Observed
from spare_margin.core.evidence.response.circuits import Adjusted, Circuit
from spare_margin.core.evidence.response.parameters import Floats, Parameters
from spare_margin.core.model.pieces import Craft
from spare_margin.core.model.tables import Tables

from .faults import FaultClass
from .linearisation import Base
from .mixture import Weighed
from .pairs import pairs
from .scope import Scope

MISFIT = 2e-3
"""Where the best single fault explains the readings no better than this chance, two are looked for."""
DOUBTED = 0.9
"""A reading that is this probably wrong tells nothing of the odds."""
SURE = 0.95
"""Beyond this probability one element holds the evidence."""
LEAST_SIZE = 0.1
"""A fault keeps at least this share of the size with which its case was worked out."""


def moved_by(shift: Floats) -> Floats:
    """How many times its size a fault has whose logarithm the readings move by so much.

    What it would show is taken as a straight line in the logarithm: what shows what was read lies on that
    line too.

    Args:
        shift: by how much the logarithm of its size is moved, (cases,).

    >>> moved_by(np.array([0.2, -2.0])).tolist()
    [1.2, 0.1]
    """
    times: Floats = np.maximum(1.0 + shift, LEAST_SIZE)
    return times


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
                logs = np.log(self._sizes(fault, own))
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

    @cached_property
    def good_ohms(self) -> Mapping[str, float]:
        """Ohms of each piece and source without a fault, where straight lines are taken; none unread."""
        circuit = next(iter(self.circuits.values()), None)
        if circuit is None:
            return {}
        ohms = circuit.answers.ohms
        return {key: float(ohms[branch]) for key, branch in circuit.answers.branches.items()}

    def _sizes(self, fault: FaultClass, own: NDArray[np.intp]) -> Floats:
        """The sizes of a fault's cases as the readings have them: times of a load, ohms over what is drawn.

        How far the good part of the same piece is moved counts with it: what was read is their sum.
        """
        w = self.weighed
        pulled = np.einsum("kop,kp->ko", w.precision[own], w.residuals[own])
        shift = (w.cases.cells[own] ** 2) * np.einsum("ko,ko->k", w.cases.by_size[own], pulled)
        most = 2.5 * w.cases.cells[own]
        sizes: Floats = w.cases.sizes[own] * moved_by(np.clip(shift, -most, most))
        column = self.parameters.index.get(("piece", fault.element or ""))
        if fault.kind != "excess_resistance" or column is None:
            return sizes
        aimed = next((p.ohm_times.get(fault.element or "", 1.0) for p in self.points.values()), 1.0)
        at = self.parameters.mean[column] + self.parameters.variance[column] * np.einsum(
            "ko,ko->k", w.cases.slopes[own, :, column], pulled
        )
        drawn = self.good_ohms.get(fault.element or "", 0.0) / aimed
        excess: Floats = np.maximum(sizes + drawn * (aimed * (1 + at) - 1), LEAST_SIZE * sizes)
        return excess

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


def search(craft: Craft, runs: Sequence[Run], observed: Observed, tables: Tables) -> Search:
    """Weigh every fault of these runs by what was observed.

    Without an observation the weights are the prior's; a reading that very likely is wrong is left out.

    Args:
        tables: the reference tables.

    JobError where the craft cannot be solved.
    """
    found = _searched(Scope(craft, runs, observed, tables))
    doubted = [
        (p, o) for p, o in zip(found.weighed.doubted, observed.values, strict=True) if p > DOUBTED
    ]
    if not doubted:
        return found
    _, worst = max(doubted, key=lambda pair: pair[0])
    rest = replace(observed, values=tuple(o for o in observed.values if o is not worst))
    return search(craft, runs, rest, tables)


def _searched(scope: Scope) -> Search:
    observed = scope.observed
    found = scope.weigh(scope.cases(scope.classes, scope.circuits))
    bases: dict[str, Base] = {}
    freedom = max(len(observed.values), 1)
    if len(observed.values) >= 3 and chdtrc(freedom, found.misfit) < MISFIT:
        found, bases = pairs(scope, found)
    return Search(
        scope.craft, scope.tables, scope.elements, observed, scope.parameters, scope.circuits, found,
        bases, scope.points, scope.order,
    )  # fmt: skip
