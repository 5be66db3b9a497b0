"""What a craft would show anywhere, given the readings: every fault that is still possible counts."""

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.evidence.estimate.linearisation import Base, solved_resting, with_base
from spare_margin.core.evidence.estimate.mixture import LIGHTEST, conditioned, shown_in
from spare_margin.core.evidence.estimate.search import Search
from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.evidence.response.circuits import AS_DRAWN, Adjusted, Circuit, Shown
from spare_margin.core.evidence.response.parameters import Floats, emf_key
from spare_margin.core.evidence.response.responses import Row
from spare_margin.core.model.pieces import Scenario

MOST_CASES = 60
HEALTHY_AT_MOST = 0.02
"""A pass must not rest on good wiring being likely: for it, nothing wrong is given this chance before."""


@dataclass(frozen=True, slots=True)
class Outlook:
    """What rows show after the readings: mean and deviation of each case, (K, R); weights (K,).

    `fair` are the weights with which a verdict is given; `weights` those by which suspects are ranked.
    """

    weights: Floats
    fair: Floats
    means: Floats
    sigmas: Floats

    def figure(self, row: int) -> tuple[float, float]:
        """Mean and standard deviation of one row over all cases."""
        mean = float(self.fair @ self.means[:, row])
        spread = self.fair @ (self.sigmas[:, row] ** 2 + (self.means[:, row] - mean) ** 2)
        return mean, math.sqrt(max(float(spread), 0.0))


def kept_cases(found: Search) -> tuple[NDArray[np.intp], Floats, Floats]:
    """The cases that count, their weights, and their weights without a bias for good wiring."""
    w = found.weighed
    fair_prior = w.cases.log_prior.copy()
    healthy = np.array([f.kind == "none" for f in w.cases.classes])[w.cases.number]
    total = float(np.exp(fair_prior).sum())
    none = float(np.exp(fair_prior[healthy]).sum())
    others = max(total - none, 1e-12)
    if none > HEALTHY_AT_MOST * total:
        times = HEALTHY_AT_MOST / (1 - HEALTHY_AT_MOST) * others / none
        fair_prior[healthy] += math.log(times)
    fair = w.reweighed(fair_prior)
    both: Floats = np.maximum(fair, w.weights)
    heaviest: NDArray[np.intp] = np.argsort(-both, kind="stable")[:MOST_CASES]
    kept = np.sort(heaviest[both[heaviest] > LIGHTEST * both[heaviest[0]]])
    return kept, w.weights[kept] / w.weights[kept].sum(), fair[kept] / fair[kept].sum()


def in_moment(found: Search, conditions: Conditions, rows: Sequence[Row]) -> Outlook:
    """What rows show under the conditions of some readings, or under conditions of the same moment."""
    return _outlook(found, circuit_in(found, conditions, rows), conditions.key)


def figures_in(
    found: Search, asked: Iterable[tuple[Conditions, Row]]
) -> dict[tuple[str, Row], tuple[float, float]]:
    """Mean and deviation of rows, each under its conditions, by the conditions' key and the row.

    All rows of the same conditions are worked out at once: most of the work is the same for each.
    """
    rows: dict[str, dict[Row, None]] = {}
    by_key: dict[str, Conditions] = {}
    for conditions, row in asked:
        by_key.setdefault(conditions.key, conditions)
        rows.setdefault(conditions.key, {})[row] = None
    out: dict[tuple[str, Row], tuple[float, float]] = {}
    for key, conditions in by_key.items():
        outlook = in_moment(found, conditions, tuple(rows[key]))
        out |= {(key, row): outlook.figure(i) for i, row in enumerate(rows[key])}
    return out


def circuit_in(
    found: Search, conditions: Conditions, rows: Sequence[Row]
) -> Callable[[Base | None], Circuit]:
    """Makes the circuit of some conditions, with a base fault in it or without."""
    point = found.points.get(emf_key(conditions.key), AS_DRAWN)
    craft = conditions.craft(found.craft)
    known = emf_key(conditions.key) if emf_key(conditions.key) in found.points else None

    def circuit(base: Base | None) -> Circuit:
        if base is None and conditions.key in found.circuits:
            return found.circuits[conditions.key].watching(rows)
        solved = solved_resting(craft, conditions.scenario, found.tables, with_base(point, base))
        return Circuit(solved, rows, found.parameters, known, base=base)

    return circuit


def in_scenario(
    found: Search, scenario: Scenario, rows: Sequence[Row], load: str, times: float
) -> Outlook:
    """What rows show in a scenario of the craft, with a load drawing so many times what is drawn.

    The source is the scenario's own; a fault that comes with warming up stands. What a load of unknown
    current draws stays an unknown, which the readings tie to the resistances of its run.
    """
    known = found.craft.load(load).behaviour is not None
    if not known:
        times = next(
            (p.load_times[load] for p in found.points.values() if load in p.load_times), 1.0
        )
    aimed = next(iter(found.points.values())).ohm_times if found.points else {}
    point = Adjusted(aimed, {}, {load: times}, {}, {})

    def circuit(base: Base | None) -> Circuit:
        solved = solved_resting(found.craft, scenario, found.tables, with_base(point, base))
        return Circuit(
            solved, rows, found.parameters, None, given_load=load if known else None, base=base
        )

    return _outlook(found, circuit, None)


def _outlook(found: Search, circuit: Callable[[Base | None], Circuit], key: str | None) -> Outlook:
    kept, weights, fair = kept_cases(found)
    shown = shown_of(found, kept, circuit, key)
    means, sigmas = conditioned(found.weighed, kept, shown)
    return Outlook(weights, fair, means, sigmas)


def shown_of(
    found: Search,
    kept: NDArray[np.intp],
    circuit: Callable[[Base | None], Circuit],
    key: str | None,
) -> Shown:
    """What rows show in these cases; `circuit` makes the circuit with a base fault or without."""
    cases = found.weighed.cases
    faults = [cases.classes[n] for n in cases.number[kept]]
    names = [f.beside.element if f.beside else None for f in faults]
    parts: list[tuple[NDArray[np.intp], Shown]] = []
    for name in dict.fromkeys(names):
        where = np.flatnonzero([n == name for n in names])
        made = circuit(None if name is None else found.bases[name])
        shown = shown_in(
            made,
            [faults[i] for i in where],
            np.arange(len(where)),
            cases.sizes[kept[where]],
            key,
            found.order,
        )
        parts.append((where, shown))
    back = np.argsort(np.concatenate([where for where, _ in parts]))
    return Shown(
        np.concatenate([shown.values for _, shown in parts])[back],
        np.concatenate([shown.slopes for _, shown in parts])[back],
        np.concatenate([shown.by_size for _, shown in parts])[back],
        np.zeros((len(kept), 0)),
    )
