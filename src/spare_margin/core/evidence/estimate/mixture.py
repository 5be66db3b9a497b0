"""Which fault the readings speak for: each fault's evidence is a Gaussian with full covariance.

Linearised about the fault's own solution, the readings y have mean m and covariance J P J' + N: they share
the craft's tolerances and the meters' gain errors, and are not independent (F. C. Schweppe and J. Wildes,
Power system static-state estimation, IEEE Trans. PAS-89, 1970; A. Abur and A. G. Exposito, Power System
State Estimation, 2004). On top a mixture of faults, weighed by Bayes' rule; any one reading may be wrong.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.evidence.observation.observations import Observation
from spare_margin.core.evidence.response.circuits import Circuit, Shown
from spare_margin.core.evidence.response.parameters import Parameters
from spare_margin.core.patience import room_for, still_allowed

from .faults import OPEN_OHM, FaultClass, Sizes

Floats = NDArray[np.float64]
WRONG_READING = 2e-4
"""Chance that one reading has nothing to do with the truth; it may then be anything up to RANGE."""
RANGE = {"volts": 30.0, "amperes": 200.0}
"""As far as a wrong reading may lie (V, A): the meter's range."""
MODEL_SIGMA = 1e-3
"""What no model of a craft is better than, for any reading (V, A)."""
FLOATING_SIGMA_V = 0.025
"""Behind an open, points are held by next to nothing: they stand this far off (one sigma)."""
DRIFT = 0.12
"""An excess resistance differs by this (one sigma, of its logarithm) from moment to moment."""
BETWEEN_READINGS = 0.0015
"""The source moves by this share of the nominal voltage (one sigma) between two readings."""
LIGHTEST = 1e-7
"""Cases that weigh less than this of the heaviest are let go."""


@dataclass(frozen=True)
class Cases:
    """Every fault in every size, and what each would show of what was observed.

    Shapes: C cases, O observations, P unknowns. `sizes` are ohms or times; `cells` the standard
    deviation of the size's logarithm within its step.
    """

    classes: tuple[FaultClass, ...]
    number: NDArray[np.intp]
    sizes: Floats
    cells: Floats
    log_prior: Floats
    values: Floats
    slopes: Floats
    by_size: Floats
    moments: NDArray[np.intp]
    """Which conditions each observation belongs to, shape (O,)."""
    factor: Floats
    """Log likelihood of what is no number: trials, wandering leads; shape (C,)."""


@dataclass(frozen=True)
class Weighed:
    """Cases with their weights, and all that conditioning on the readings needs."""

    cases: Cases
    parameters: Parameters
    weights: Floats
    log_evidence: Floats
    residuals: Floats
    covariance: Floats
    precision: Floats
    wrong: Floats
    """By case and observation: how probable it is that this reading is the wrong one, (C, O)."""

    @cached_property
    def by_class(self) -> Floats:
        """Probability of each class."""
        return np.bincount(self.cases.number, self.weights, len(self.cases.classes)).astype(float)

    @cached_property
    def doubted(self) -> Floats:
        """How probable it is that each reading is wrong, shape (O,)."""
        out: Floats = self.weights @ self.wrong
        return out

    @cached_property
    def misfit(self) -> float:
        """Least chi squared of any case."""
        chi = np.einsum("co,cop,cp->c", self.residuals, self.precision, self.residuals)
        return float(chi.min(initial=np.inf))


def normal(logs: Floats) -> Floats:
    """Probabilities from their logarithms.

    Args:
        logs: logarithms, (cases,).

    >>> normal(np.log([3.0, 1.0])).tolist()
    [0.75, 0.25]
    """
    shifted = np.exp(logs - logs.max())
    out: Floats = shifted / shifted.sum()
    return out


def gather(
    classes: Sequence[tuple[FaultClass, Sizes, float]],
    circuits: Sequence[tuple[str, Circuit, NDArray[np.intp]]],
    order: Sequence[str],
    unknowns: int,
) -> Cases:
    """The cases of these classes (with sizes and prior), and what each shows in every circuit.

    Args:
        circuits: by key of their conditions, each with the observations it shows, in the order of its
            rows.
        order: keys of the conditions in the order in which a fault may set in.
        unknowns: how many unknowns there are.
    """
    rows = int(sum(len(where) for _, _, where in circuits))
    number = np.repeat(np.arange(len(classes)), [len(s.values) for _, s, _ in classes])
    sizes = np.concatenate([s.values for _, s, _ in classes])
    cells = np.concatenate([np.full(len(s.values), s.cell) for _, s, _ in classes])
    log_prior = np.concatenate(
        [np.full(len(s.values), np.log(p / len(s.values))) for _, s, p in classes]
    )
    faults = [fault for fault, _, _ in classes]
    room_for(len(sizes) * rows * max(rows, unknowns))
    values = np.zeros((len(sizes), rows))
    slopes = np.zeros((len(sizes), rows, unknowns))
    by_size = np.zeros((len(sizes), rows))
    moments = np.zeros(rows, dtype=np.intp)
    for n, (key, circuit, where) in enumerate(circuits):
        still_allowed()
        moments[where] = n
        shown = shown_in(circuit, faults, number, sizes, key, order)
        values[:, where] = shown.values
        slopes[:, where] = shown.slopes
        by_size[:, where] = shown.by_size
    return Cases(
        tuple(faults), number, sizes, cells, log_prior, values, slopes, by_size, moments,
        np.zeros(len(sizes)),
    )  # fmt: skip


def shown_in(
    circuit: Circuit,
    faults: Sequence[FaultClass],
    number: NDArray[np.intp],
    sizes: Floats,
    key: str | None,
    order: Sequence[str],
) -> Shown:
    """What cases show in a circuit: by case the number of its fault, and its size (ohms or times).

    `key` are the circuit's conditions: a fault that sets in later does not stand there yet; without a key
    every fault stands. A load whose draw the circuit is given draws that, whatever was wrong with it.

    Args:
        faults: the faults of the cases.
        sizes: how large each is (ohm, or times), (cases,).
        order: ids of the elements, as the circuit has them.
    """
    loads = {x.id for x in circuit.layout.craft.loads}
    standing = [
        None if fault.element == circuit.given_load or not _stands(fault, key, order) else fault.element
        for fault in faults
    ]  # fmt: skip
    in_load = [each if each in loads else None for each in standing]
    opened = np.array([f.kind == "open" for f in faults])[number]
    shown = circuit.evaluate(
        [None if each in loads else each for each in standing],
        number,
        np.where(opened, OPEN_OHM, sizes),
        in_load,
        np.where(opened, 1e-6, sizes),
    )
    shown.by_size[opened] = 0.0
    columns = np.array([circuit.parameters.index.get(("load", each or ""), -1) for each in in_load])
    at = np.flatnonzero(np.array([each is not None for each in in_load])[number])
    column = columns[number[at]]
    shown.by_size[at] = np.where(
        ((column >= 0) & ~opened[at])[:, None], shown.slopes[at, :, column], 0.0
    )
    return shown


def _stands(fault: FaultClass, key: str | None, order: Sequence[str]) -> bool:
    if fault.element is None:
        return False
    return key is None or fault.since is None or _set_in(fault.since, key, order)


def _set_in(since: str, key: str, order: Sequence[str]) -> bool:
    return key in order and since in order and order.index(key) >= order.index(since)


def weighed(
    cases: Cases,
    parameters: Parameters,
    observations: Sequence[Observation],
    nominal_v: float,
    emf_columns: Mapping[int, Sequence[int]],
) -> Weighed:
    """Weigh the cases by the readings.

    Args:
        observations: in the order of the cases' columns.
        emf_columns: by observation, the unknowns that are its source's open-circuit volts.
        parameters: the unknowns.
        nominal_v: the craft's nominal voltage (V).
    """
    n_cases, n_obs = cases.values.shape
    room_for(n_cases * n_obs * max(n_obs, cases.slopes.shape[2]))
    still_allowed()
    y = np.array([o.value for o in observations], dtype=float)
    own = np.array([o.sigma for o in observations], dtype=float)
    slopes = cases.slopes.copy()
    for i, o in enumerate(observations):
        column = parameters.index.get(("gain", o.meter))
        if column is not None:
            slopes[:, i, column] = o.value
        sag = parameters.index.get(("sag", o.sag or ""))
        if sag is not None:
            slopes[:, i, sag] = slopes[:, i, list(emf_columns.get(i, ()))].sum(axis=1)
    noise = np.repeat((own**2 + MODEL_SIGMA**2)[None], n_cases, axis=0)
    for i, o in enumerate(observations):
        if o.sag is None and o.quantity == "volts":
            moved = slopes[:, i, list(emf_columns.get(i, ()))].sum(axis=1)
            noise[:, i] += (BETWEEN_READINGS * nominal_v * moved) ** 2
    is_open = np.isinf(cases.sizes)
    volts = np.array([o.quantity == "volts" for o in observations], dtype=bool)
    noise[_floating(cases, observations) & is_open[:, None] & volts] += FLOATING_SIGMA_V**2
    covariance = np.einsum("cop,p,cqp->coq", slopes, parameters.variance, slopes, optimize=True)
    covariance += np.einsum("co,cq->coq", cases.by_size, cases.by_size) * (
        cases.cells[:, None, None] ** 2
    )
    if cases.moments.max(initial=0) > 0:
        same = cases.moments[:, None] == cases.moments[None, :]
        covariance += np.einsum("co,cq->coq", cases.by_size, cases.by_size) * same * DRIFT**2
    covariance[:, np.arange(n_obs), np.arange(n_obs)] += noise
    residuals = y - cases.values - slopes @ parameters.mean
    precision = np.linalg.inv(covariance)
    _, logdet = np.linalg.slogdet(covariance)
    pulled = np.einsum("cop,cp->co", precision, residuals)
    chi = np.einsum("co,co->c", residuals, pulled)
    whole = -0.5 * (chi + logdet + n_obs * np.log(2 * np.pi))
    # Without reading i the Gaussian loses one conditional factor; in its place it may be anything.
    variance = 1 / precision[:, np.arange(n_obs), np.arange(n_obs)]
    missed = pulled * variance
    wide = np.array([RANGE[o.quantity] for o in observations])
    without = whole[:, None] + 0.5 * (np.log(2 * np.pi * variance) + missed**2 / variance)
    without += np.log(WRONG_READING / wide)
    log_evidence = np.logaddexp(whole, np.logaddexp.reduce(without, axis=1)) if n_obs else whole
    wrong = np.exp(without - log_evidence[:, None]) if n_obs else without
    log_evidence = log_evidence + cases.factor
    weights = normal(cases.log_prior + log_evidence)
    return Weighed(
        Cases(**{**cases.__dict__, "slopes": slopes}), parameters, weights, log_evidence, residuals,
        covariance, precision, wrong,
    )  # fmt: skip


def _floating(cases: Cases, observations: Sequence[Observation]) -> NDArray[np.bool_]:
    """Where an open element may leave points hanging: not where it is a load that is off anyway, (C, O)."""
    off = np.array(
        [
            [
                fault.element in o.conditions.states.keys() - o.conditions.running
                for o in observations
            ]
            for fault in cases.classes
        ],
        dtype=bool,
    ).reshape(len(cases.classes), len(observations))
    return ~off[cases.number]


def conditioned_together(
    weighed_: Weighed, kept: NDArray[np.intp], shown: Shown
) -> tuple[Floats, Floats]:
    """Means of rows in each case, given the readings, (K, R), and what they share, (K, R, R).

    Args:
        weighed_: the cases, weighed.
        kept: the places of the cases that count, (K,).
        shown: what rows show in them.
    """
    means, cross, gain = _updated(weighed_, kept, shown)
    cells = weighed_.cases.cells[kept][:, None, None] ** 2
    spread = shown.slopes * weighed_.parameters.variance
    before = spread @ shown.slopes.transpose(0, 2, 1)
    before += shown.by_size[:, :, None] * shown.by_size[:, None, :] * cells
    covariance: Floats = before - gain @ cross.transpose(0, 2, 1)
    return means, covariance


def _updated(
    weighed_: Weighed, kept: NDArray[np.intp], shown: Shown
) -> tuple[Floats, Floats, Floats]:
    """Means given the readings, the rows' covariance with the readings, and the gain on them."""
    cases, parameters = weighed_.cases, weighed_.parameters
    slopes = cases.slopes[kept]
    cross = np.einsum("krp,p,kop->kro", shown.slopes, parameters.variance, slopes, optimize=True)
    cells = (cases.cells[kept] ** 2)[:, None, None]
    cross += np.einsum("kr,ko->kro", shown.by_size, cases.by_size[kept]) * cells
    gain = np.einsum("kro,kop->krp", cross, weighed_.precision[kept])
    means = shown.values + shown.slopes @ parameters.mean
    means += np.einsum("kro,ko->kr", gain, weighed_.residuals[kept])
    return means, cross, gain
