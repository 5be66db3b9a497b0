"""Systems that are out of bounds, known by what people call them; and which cautions guard a walk."""

import re
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class OutOfScope:
    """Why something is refused."""

    what: str
    why: str


_KINDS: tuple[tuple[str, OutOfScope], ...] = (
    (
        r"air\s*-?\s*bags?|belt\s*-?\s*tensioners?|restraint|\bsrs\b|pyrotechnic|squib",
        OutOfScope(
            "airbags and belt tensioners",
            "A probe can fire them. Trained and licensed people only.",
        ),
    ),
    (
        r"high[\s-]*voltage|orange\s+cable|traction\s+(battery|motor|inverter)|\bhv\b|hybrid",
        OutOfScope(
            "high-voltage and traction systems",
            "Lethal voltage. Trained and licensed people only.",
        ),
    ),
    (
        r"\b(110|115|120|220|230|240)\s*v(olts?)?\b|\bmains\b|shore\s*power|hook[\s-]*up|inverter\s+output"
        r"|\b(110|115|120|220|230|240)\s*vac\b",
        OutOfScope(
            "shore power, inverter output, mains hook-up",
            "Mains voltage: a licensed electrician only.",
        ),
    ),
)


def out_of_scope(*texts: str) -> OutOfScope | None:
    """The system that one of these texts names, if it is one that must not be probed."""
    for text in texts:
        for pattern, found in _KINDS:
            if re.search(pattern, text, re.I):
                return found
    return None
