"""What to read next: the pair of points that is expected to tell most per minute.

The gain is the mutual information between the reading and which element is at fault (D. V. Lindley, On a
measure of the information provided by an experiment, Annals of Mathematical Statistics 27, 1956). What was
read before counts: a span whose volts are known already tells nothing.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from spare_margin.core.evidence.estimate.mixture import conditioned_together
from spare_margin.core.evidence.estimate.search import Search
from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.evidence.response.parameters import Floats
from spare_margin.core.evidence.response.responses import Row
from spare_margin.core.model.pieces import Access

from .outlook import circuit_in, kept_cases, shown_of

MINUTES: Mapping[Access, float] = {"open": 0.4, "backprobe": 1.2, "trim": 6.0}
"""Minutes to bring a lead to a point; a parked lead costs little."""
PARKED_MINUTES, READ_MINUTES = 0.1, 0.3
"""Minutes for a lead that is parked on a post, and to take the reading."""
METER_SHARE, METER_V = 0.003, 1.5e-3
"""What a usual meter's reading is doubted by (one sigma): a share of it, and volts."""
MOST_WEIGHED = 40
"""The heaviest cases say nearly all of which pair tells most; each costs its time."""
STEPS = 48
"""Of the integral over what a reading may show."""
TELLS = 0.02
"""A pair that is expected to tell fewer bits than this is not worth a lead."""
NEIGHBOURS = 6
"""Points farther apart than this along the run tell hardly more than a side does."""


@dataclass(frozen=True, slots=True)
class Probe:
    """A pair of points to read next: what it is expected to tell (bits), and what it costs (minutes)."""

    red: str
    black: str
    bits: float
    minutes: float


def probes(
    found: Search,
    conditions: Conditions,
    points: Mapping[str, Access],
    posts: tuple[str, str],
    order: Sequence[str],
) -> list[Probe]:
    """Pairs of these points by bits a minute, the best first; none where nothing is left to ask.

    Args:
        conditions: those under which will be read.
        points: what can be reached, and what each costs.
        posts: the source's live and return post, where a lead may be parked.
        order: points in the order in which the current passes them.
        found: the faults that were weighed.
    """
    kept, weights = kept_cases(found)
    heavy = np.sort(np.argsort(-weights, kind="stable")[:MOST_WEIGHED])
    kept, weights = kept[heavy], weights[heavy] / weights[heavy].sum()
    names = [p for p in order if p in points]
    live, back = posts
    rows: list[Row] = [("volts", p, back) for p in names]
    shown = shown_of(found, kept, circuit_in(found, conditions, rows), conditions.key)
    pairs = _pairs(names, live, back)
    at = {p: i for i, p in enumerate(names)}
    ones = np.array([at[a] for a, _ in pairs])
    others = np.array([at[b] if b != back else len(names) for _, b in pairs])
    levels, covariance = conditioned_together(found.weighed, kept, shown)
    means = _padded(levels)[:, ones] - _padded(levels)[:, others]
    shared = _padded(_padded(covariance).transpose(0, 2, 1))
    own_spread = np.einsum("kpp->kp", shared)
    variance = own_spread[:, ones] + own_spread[:, others] - 2 * shared[:, ones, others]
    sigmas = np.sqrt(np.maximum(variance, 0.0))
    own = METER_V**2 + (METER_SHARE * means) ** 2
    sigmas = np.sqrt(sigmas**2 + own)
    classes = _numbers(found, kept)
    bits = _information(means, sigmas, weights, classes)
    out = []
    for (red, black), told in zip(pairs, bits, strict=True):
        out.append(Probe(red, black, float(told), minutes_of(red, black, points, posts)))
    out = [p for p in out if p.bits > TELLS]
    return sorted(out, key=lambda p: -p.bits / p.minutes)


def _pairs(names: Sequence[str], live: str, back: str) -> list[tuple[str, str]]:
    """Every point against either post, and points near one another along the run."""
    inner = [p for p in names if p not in (live, back)]
    found = [(live, p) for p in inner] + [(p, back) for p in inner]
    if live in names:
        found.append((live, back))
    for reach in range(1, NEIGHBOURS + 1):
        found += list(zip(inner, inner[reach:], strict=False))
    return found


def _padded(values: Floats) -> Floats:
    """With one more column, of zeros, for the return post that the others are read against."""
    return np.concatenate([values, np.zeros_like(values[:, :1])], axis=1)


def _numbers(found: Search, kept: np.ndarray) -> np.ndarray:
    """A number for each case, the same for cases that blame the same elements for the same."""
    cases = found.weighed.cases
    keys = [
        (cases.classes[n].elements, cases.classes[n].kind == "open") for n in cases.number[kept]
    ]
    place = {key: i for i, key in enumerate(dict.fromkeys(keys))}
    return np.array([place[key] for key in keys])


def _information(means: Floats, sigmas: Floats, weights: Floats, classes: np.ndarray) -> Floats:
    """Mutual information (bits) between each pair's reading and the class; shape (pairs,).

    Readings are sorted into steps, fine near zero and coarser with size, each case's spread over them.
    """
    floor = 2e-3
    low = np.arcsinh((means - 3 * sigmas) / floor).min(axis=0)
    high = np.arcsinh((means + 3 * sigmas) / floor).max(axis=0)
    edges = floor * np.sinh(low + (high - low) * np.linspace(0, 1, STEPS + 1)[:, None])
    below = ndtr((edges[None] - means[:, None]) / sigmas[:, None])
    mass = np.diff(below, axis=1) * weights[:, None, None]
    k = int(classes.max()) + 1
    of_class = (classes == np.arange(k)[:, None]).astype(float)
    joint = np.tensordot(of_class, mass, axes=1)
    joint /= np.maximum(joint.sum(axis=(0, 1)), 1e-300)
    whole = _entropy(joint.reshape(k * STEPS, -1))
    gained: Floats = _entropy(joint.sum(axis=0)) + _entropy(joint.sum(axis=1)) - whole
    return gained


def _entropy(p: Floats) -> Floats:
    logs = np.where(p > 0, p, 1.0)
    bits: Floats = -(p * np.log2(logs)).sum(axis=0)
    return bits


def minutes_of(red: str, black: str, points: Mapping[str, Access], posts: tuple[str, str]) -> float:
    """What a reading costs (minutes): bringing each lead to its point, and reading.

    Args:
        red: the id of the point that the red lead is on.
        black: the id of the point that the black lead is on.
        points: how each point is reached, by its id.
        posts: the ids of the source's posts.

    >>> minutes_of("plus", "plug", {"plug": "backprobe"}, ("plus", "minus"))
    1.6
    """
    first, second = (
        PARKED_MINUTES if point in posts else MINUTES[points[point]] for point in (red, black)
    )
    return READ_MINUTES + first + second
