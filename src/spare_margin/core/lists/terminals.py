"""Which terminal fits which wire: a pin that takes 25 mm2 does not exist."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Terminal:
    """A terminal as it is bought.

    Args:
        style: what the drawing calls the joint.
        stud: the stud it fits, as M6; empty where it sits on none.
        in_place_of: the style that the drawing has, where none is made for such a wire; empty else.
    """

    style: str
    stud: str
    in_place_of: str = ""


LARGEST_MM2 = {"pin": 6.0, "splice": 16.0}
"""The thickest wire (mm2) that a style is made for, typical of crimped parts; rings have no such end."""
STUDS = ((2.5, "M5"), (6.0, "M6"), (25.0, "M8"), (120.0, "M10"))
"""Up to an area (mm2), the stud that its rings usually sit on; the bar or post in hand decides."""
ON_STUD = ("ring on stud", "post clamp")


def terminal_for(style: str, area_mm2: float) -> Terminal:
    """The terminal of a joint's style for a wire of an area.

    Args:
        style: what the drawing calls the joint.
        area_mm2: the wire's area (mm2).

    >>> terminal_for("ring on stud", 6.0)
    Terminal(style='ring on stud', stud='M6', in_place_of='')
    >>> terminal_for("pin", 25.0)  # there is none: a ring
    Terminal(style='ring on stud', stud='M8', in_place_of='pin')
    """
    if area_mm2 > LARGEST_MM2.get(style, float("inf")):
        return Terminal("ring on stud", _stud(area_mm2), style)
    return Terminal(style, _stud(area_mm2) if style in ON_STUD else "")


def _stud(area_mm2: float) -> str:
    return next((stud for most, stud in STUDS if area_mm2 <= most), STUDS[-1][1])
