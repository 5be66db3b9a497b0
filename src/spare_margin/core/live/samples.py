"""What a meter shows at one moment."""

from dataclasses import dataclass
from typing import Literal

LiveQuantity = Literal["volts", "amperes", "ohms"]
Mode = Literal["dc", "ac", ""]
"""What the meter's switch stands on; empty where it does not say."""


@dataclass(frozen=True, slots=True)
class Sample:
    """One figure of a meter's display.

    Attributes:
        at_s: when it was read (s of a clock that only goes on).
        value: what it showed (V, A, ohm); None where it showed no figure, as over its range.
        step: what its last digit counts (same unit); 0 where nobody knows.
        quantity: what it measures.
        mode: direct or alternating.
        range_to: the end of the range it stands on (same unit); None where it does not say.
    """

    at_s: float
    value: float | None
    step: float = 0.0
    quantity: LiveQuantity = "volts"
    mode: Mode = "dc"
    range_to: float | None = None
