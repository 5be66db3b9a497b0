"""How probable it is that limits are passed, over every fault that is still possible.

Within where a limit is passed with at most PASSED, over where it is kept with at most that (JCGM 106,
decisions near a limit). A pass also needs a doubt that is small against the limit.
"""

from collections.abc import Iterable

import numpy as np
from scipy.special import ndtr

from spare_margin.core.evidence.outlook.outlook import Outlook
from spare_margin.core.evidence.response.parameters import Floats

from .judgement import PASSED, Verdict

SHARP = 3
"""A pass needs a limit this many times the doubt of what is held against it."""
Limit = tuple[tuple[int, ...], float]
"""Rows of an outlook, and what they may lose together (V)."""


def passed(outlook: Outlook, limits: Iterable[Limit]) -> float:
    """How probable it is that any of these limits is passed.

    Of limits that hang together the likeliest counts in each case (Frechet's lower bound).
    """
    most = np.zeros(len(outlook.fair))
    for rows, limit in limits:
        mean, sigma = _sum(outlook, rows)
        most = np.maximum(most, ndtr((mean - limit) / np.maximum(sigma, 1e-9)))
    return float(outlook.fair @ most)


def doubt(outlook: Outlook, rows: tuple[int, ...]) -> float:
    """Standard deviation (V) of what these rows lose together, over all cases."""
    means, sigmas = _sum(outlook, rows)
    mean = float(outlook.fair @ means)
    return float(np.sqrt(outlook.fair @ (sigmas**2 + (means - mean) ** 2)))


def _sum(outlook: Outlook, rows: tuple[int, ...]) -> tuple[Floats, Floats]:
    """Means and deviations of a sum, case by case: what doubts share is not known, so they add up."""
    chosen = list(rows)
    return outlook.means[:, chosen].sum(axis=1), outlook.sigmas[:, chosen].sum(axis=1)


def decided(over: float, half_width: float, limit: float) -> Verdict:
    """The verdict on one limit, passed with this probability, known to this half-width.

    >>> decided(0.999, 0.01, 0.5), decided(0.001, 0.01, 0.5), decided(0.4, 0.01, 0.5)
    ('over', 'within', 'too_close')
    >>> decided(0.001, 0.4, 0.5)  # kept for all that is known, but known too badly to pass
    'too_close'
    """
    if over > 1 - PASSED:
        return "over"
    if over < PASSED and SHARP * half_width <= limit:
        return "within"
    return "too_close"
