"""What a craft would show anywhere, given the readings: every fault that is still possible counts."""

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.evidence.estimate.linearisation import Base, solved_resting, with_base
from spare_margin.core.evidence.estimate.mixture import LIGHTEST, shown_in
from spare_margin.core.evidence.estimate.search import Search
from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.evidence.response.circuits import AS_DRAWN, Circuit, Shown
from spare_margin.core.evidence.response.parameters import Floats, emf_key
from spare_margin.core.evidence.response.responses import Row

MOST_CASES = 60
"""The heaviest cases say nearly all there is to say; each costs its time."""


def kept_cases(found: Search) -> tuple[NDArray[np.intp], Floats]:
    """The cases that count, and their weights.

    Args:
        found: the faults that were weighed.
    """
    weights = found.weighed.weights
    heaviest: NDArray[np.intp] = np.argsort(-weights, kind="stable")[:MOST_CASES]
    kept = np.sort(heaviest[weights[heaviest] > LIGHTEST * weights[heaviest[0]]])
    return kept, weights[kept] / weights[kept].sum()


def circuit_in(
    found: Search, conditions: Conditions, rows: Sequence[Row]
) -> Callable[[Base | None], Circuit]:
    """Makes the circuit of some conditions, with a base fault in it or without.

    Args:
        found: the faults that were weighed.
        rows: what is watched.
    """
    point = found.points.get(emf_key(conditions.key), AS_DRAWN)
    craft = conditions.craft(found.craft)
    known = emf_key(conditions.key) if emf_key(conditions.key) in found.points else None

    def circuit(base: Base | None) -> Circuit:
        if base is None and conditions.key in found.circuits:
            return found.circuits[conditions.key].watching(rows)
        solved = solved_resting(craft, conditions.scenario, found.tables, with_base(point, base))
        return Circuit(solved, rows, found.parameters, known, base=base)

    return circuit


def shown_of(
    found: Search,
    kept: NDArray[np.intp],
    circuit: Callable[[Base | None], Circuit],
    key: str | None,
) -> Shown:
    """What rows show in these cases; `circuit` makes the circuit with a base fault or without.

    Args:
        found: the faults that were weighed.
        kept: the places of the cases that count, (K,).
        key: the id of what a base fault is in; None for no such fault.
    """
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
