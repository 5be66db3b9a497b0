"""How far a meter's reading may be from the truth; and where one that speaks by itself is."""

import math
import re
from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen, MinLen

from .values import Id, Name

SMALLEST_RANGE = 0.6
"""The most sensitive range of a usual 6000-count meter (V, A)."""


@dataclass(frozen=True, slots=True)
class Meter:
    """A multimeter's specification: plus or minus (`percent` of reading + `counts`).

    `full_counts` is the display's count (6000 shows 5.999 on a 6 V range); ranges step by ten.
    """

    name: str
    percent: float
    counts: float
    full_counts: int

    def resolution(self, value: float) -> float:
        """What one count stands for on the range that just holds this value."""
        steps = math.ceil(math.log10(max(abs(value), 1e-12) / SMALLEST_RANGE) - 1e-9)
        return SMALLEST_RANGE * 10.0 ** max(steps, 0) / self.full_counts

    def accuracy(self, value: float, typed_step: float = 0.0) -> float:
        """Half-width within which the truth lies, in the value's unit.

        `typed_step` is the last digit's worth as it was typed: fewer digits than the display has
        leave half a step more in doubt.
        """
        resolution = self.resolution(value)
        rounding = typed_step / 2 if typed_step > 1.5 * resolution else 0.0
        return abs(value) * self.percent / 100 + self.counts * resolution + rounding

    def difference(self, first: float, second: float) -> float:
        """Half-width of the difference of two readings with this meter on one range.

        The gain error is the same in both, so that only its share of the difference is left; the
        counts are not.

        Args:
            first: one reading (V).
            second: the other (V).
        """
        resolution = self.resolution(max(abs(first), abs(second)))
        return abs(first - second) * self.percent / 100 + 2 * self.counts * resolution


Speaks = Literal["scpi", "lines"]
"""Asked by SCPI for each figure, or sending lines of text by itself."""
LineUnit = Literal["V", "MV", "A", "MA", "OHM"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Connection:
    """A meter that speaks: where it is, and how it is understood.

    `address` is a network address, a serial port, or a VISA resource; `spec` its row in the table of meters
    (empty: the workshop's). Of lines of text, `figure` tells which figure is the reading, from 0, and
    `unit` what it is in where the line does not say. One that is `on_source` stays on the source's posts:
    what another gives carries what this one showed at the same instant.
    """

    id: Id
    name: Annotated[Name, MinLen(1)]
    speaks: Speaks = "scpi"
    address: Annotated[str, MinLen(1), MaxLen(200)]
    spec: Annotated[str, MaxLen(400)] = ""
    figure: Annotated[int, Ge(0), Le(50)] = 0
    unit: LineUnit = "V"
    baud: Annotated[int, Ge(50), Le(4_000_000)] = 9600
    on_source: bool = False


WORKSHOP_METER = Meter("Workshop multimeter, 6000 counts, 0.5 % + 2", 0.5, 2, 6000)
CLAMP_METER = Meter("Workshop clamp, zeroed, 2 % + 3", 2.0, 3, 6000)


def typed_step(number: str) -> float:
    """Worth of the last digit of a number as typed, with its exponent: `0.14` gives 0.01.

    >>> typed_step("0.14"), typed_step("12.6"), typed_step("3e-3"), typed_step("OL")
    (0.01, 0.1, 0.001, 0.0)
    """
    match = re.fullmatch(r"[-+]?(\d*)(?:\.(\d*))?(?:[eE]([-+]?\d+))?", number.strip())
    if match is None:
        return 0.0
    return float(f"1e{int(match[3] or 0) - len(match[2] or '')}")
