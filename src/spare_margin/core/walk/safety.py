"""Systems that are out of bounds, known by what people call them."""

import re
from typing import Literal

OutOfScope = Literal["airbags", "traction", "mains"]
"""Airbags and belt tensioners; high-voltage and traction systems; anything on mains voltage."""

_KINDS: tuple[tuple[str, OutOfScope], ...] = (
    (r"air\s*-?\s*bags?|belt\s*-?\s*tensioners?|restraint|\bsrs\b|pyrotechnic|squib", "airbags"),
    (
        r"high[\s-]*voltage|orange\s+cable|traction\s+(battery|motor|inverter)|\bhv\b|hybrid",
        "traction",
    ),
    (
        r"\b(110|115|120|220|230|240)\s*v(olts?)?\b|\bmains\b|shore\s*power|hook[\s-]*up|inverter\s+output"
        r"|\b(110|115|120|220|230|240)\s*vac\b",
        "mains",
    ),
)


def out_of_scope(*texts: str) -> OutOfScope | None:
    """The system that one of these texts names, if it is one that must not be probed.

    >>> out_of_scope("Bilge pump", "Shore power inlet")
    'mains'
    """
    for text in texts:
        for pattern, found in _KINDS:
            if re.search(pattern, text, re.I):
                return found
    return None
