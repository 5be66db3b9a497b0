"""What a check has to say, as a value: a code, the readings and piece it is about, quantities in SI.

Words are made of it at the edge; nothing asks what a sentence says.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

FindingCode = Literal[
    "not_loaded",
    "not_proven",
    "swapped",
    "reversed",
    "impossible",
    "coarse",
    "over_range",
    "wandering",
    "not_reachable",
    "changed",
    "repeats_differ",
    "moves",
    "heats",
    "burns",
    "surface_warm",
    "surface_hot",
    "ripples",
    "over",
    "grows_warm",
    "shrinks_warm",
    "changes",
    "a_little_high",
    "more_lost_than_drawn",
    "over_as_drawn",
    "low_current",
    "high_current",
    "drops_out",
    "protection_open",
    "contradiction",
    "comes_and_goes",
    "source_unsettled",
    "contact_stuck",
    "lamp_under_load",
    "lamp_dim",
    "load_open",
    "load_ohms",
    "bench_current",
]
BURNING: frozenset[FindingCode] = frozenset({"burns", "surface_hot"})
"""Findings of something that is a fire hazard now."""


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing a check has to say.

    Args:
        code: what it is.
        readings: ids of the readings it is about.
        piece: id of the piece it is about.
        facts: quantities in SI (V, A, W, K) and codes, by name; which ones goes with the code.
    """

    code: FindingCode
    readings: tuple[str, ...] = ()
    piece: str | None = None
    facts: Mapping[str, float | str] = field(default_factory=dict)
