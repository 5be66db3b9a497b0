"""Evidence that is no number: a display that wanders, and how a load came out of a trial."""

from dataclasses import replace

import numpy as np
from scipy.special import ndtr

from spare_margin.core.circuit.runs import Run
from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.evidence.observation.observations import Screen
from spare_margin.core.evidence.response.circuits import Circuit
from spare_margin.core.evidence.response.parameters import Floats, emf_key
from spare_margin.core.evidence.response.responses import Row
from spare_margin.core.evidence.response.ways import cut_apart
from spare_margin.core.model.jobs import Outcome
from spare_margin.core.model.pieces import Craft

from .faults import Sizes
from .mixture import Cases, gather

RIGHT_SHARE, RIGHT_SIGMA = 0.93, 0.03
"""A load that comes right gets this share of its volts at least."""


def screened(craft: Craft, cases: Cases, said: Screen) -> Floats:
    """Log likelihood of a display that wanders, or an ohmmeter that sees no way, by case, (cases,).

    An ohmmeter that sees a way may see it through a load or a lamp: it acquits nothing, nor does a test
    lamp.

    Args:
        craft: the wiring.
        said: what the display or the ohmmeter showed.
    """
    if said.shows not in ("wandering", "open"):
        return np.zeros(len(cases.number))
    cut = np.array(
        [
            cut_apart(
                said.conditions.craft(craft), said.conditions.scenario, _opened(cases, i),
                said.red, said.black,
            )
            for i in range(len(cases.classes))
        ]
    )[cases.number]  # fmt: skip
    return np.log(np.where(cut, 0.6 if said.shows == "wandering" else 0.9, 0.02))


def stirred(cases: Cases, guilty: frozenset[str]) -> Floats:
    """Log likelihood of readings that changed while some pieces were moved, by case, (cases,).

    Args:
        guilty: the ids of the pieces that were moved.
    """
    blamed = [bool(guilty & set(fault.elements)) for fault in cases.classes]
    return np.log(np.where(np.array(blamed)[cases.number], 0.9, 0.02))


def _opened(cases: Cases, number: int) -> set[str]:
    fault = cases.classes[number]
    both = (f for f in (fault, fault.beside) if f is not None and f.kind == "open")
    return {f.element for f in both if f.element is not None}


def plain(conditions: Conditions) -> Conditions:
    """The conditions of a trial without its change."""
    return replace(conditions, key=emf_key(conditions.key), trial=None)


def at_load(run: Run) -> Row:
    """The volts at a run's load, as a row to watch."""
    return ("volts", run.feed_terminal, run.return_terminal)


def trial(cases: Cases, tried_in: Circuit, plain_in: Circuit, outcome: Outcome | None) -> Floats:
    """Log likelihood of how the load came out of a trial, by case, (cases,).

    Args:
        tried_in: the circuit with the change, watching the load.
        plain_in: the same without it.
        outcome: how the load came out of it; None where nobody said.
    """
    got = [_values(cases, circuit) for circuit in (tried_in, plain_in)]
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


def _values(cases: Cases, circuit: Circuit) -> Floats:
    """What the circuit's one row shows in each case."""
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
