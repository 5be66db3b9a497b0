"""Whether the source should be read again before the next reading: by how far it may have moved since."""

import math

from spare_margin.core.evidence.estimate.search import Search
from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.evidence.response.parameters import emf_key

FORGETS_S = 12 * 3600.0
"""In this time (s) a source may come to stand anywhere; a few minutes move it little."""
LEAST_TIMES = 3.0
"""A reading is worth taking where what it is held against is this many times its doubt."""


def source_doubt_v(
    found: Search, conditions: Conditions, red: str, black: str, age_s: float
) -> float:
    """How far off (V, one sigma) a reading over these points may be because the source moved meanwhile.

    The source wanders as a first-order Gauss-Markov process: its deviation grows as
    sigma sqrt(1 - exp(-2 t / T)) towards what is not known of it before it is read; the circuit says how
    much of it the two points feel. Nothing of it is felt where the moment has no circuit yet.
    """
    circuit = found.circuits.get(conditions.key)
    if circuit is None:
        return 0.0
    index, sigma = found.parameters.index, found.parameters.sigma
    slopes = circuit.watching([("volts", red, black)]).none().slopes[0, 0]
    wandered = math.sqrt(-math.expm1(-2 * max(age_s, 0.0) / FORGETS_S))
    felt = [
        float(slopes[column] * sigma[column])
        for source in found.craft.sources
        if (column := index.get(("emf", f"{source.id} {emf_key(conditions.key)}"))) is not None
    ]
    return wandered * math.hypot(*felt)


def source_is_asked_for(doubt_v: float, ceiling_v: float | None) -> bool:
    """Whether a source that moved so far (V) would spoil what is held against this ceiling (V).

    >>> source_is_asked_for(0.5, 0.5), source_is_asked_for(0.001, 0.5), source_is_asked_for(0.5, None)
    (True, False, False)
    """
    return ceiling_v is not None and LEAST_TIMES * doubt_v > ceiling_v
