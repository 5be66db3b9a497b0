"""Loads whose wiring is regulated: known by what people call them."""

import re
from typing import Literal

from spare_margin.core.walk.safety import out_of_scope

Regulated = Literal["", "road_lights", "brakes_steering", "engine_control", "out_of_scope"]

_KINDS: tuple[tuple[str, Regulated], ...] = (
    (
        r"head\s*-?\s*l(amp|ight)|low beam|high beam|dipped|(brake|stop)\s*-?\s*l(amp|ight)"
        r"|indicator|turn signal|tail\s*-?\s*l(amp|ight)|hazard|reversing l(amp|ight)|number plate",
        "road_lights",
    ),
    (r"\bbrakes?\b|\babs\b|steering", "brakes_steering"),
    (r"engine control|ignition|immobili[sz]er|interlock|\becu\b", "engine_control"),
)


def regulated(*names: str) -> Regulated:
    """Why a load of these names is out of bounds for a relay, or needs the code's say.

    >>> regulated("Brake light, left"), regulated("Bilge pump")
    ('road_lights', '')
    """
    if out_of_scope(*names) is not None:
        return "out_of_scope"
    for name in names:
        for pattern, found in _KINDS:
            if re.search(pattern, name, re.I):
                return found
    return ""
