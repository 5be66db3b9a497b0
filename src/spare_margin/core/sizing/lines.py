"""Every ceiling in every moment as one line of a linear programme: the values."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from spare_margin.core.columns import Floats

from .task import Unit

Under = Literal["feed", "return", "round_trip", "least"]


@dataclass(frozen=True, slots=True)
class HeldLimit:
    """What a line holds: a load's ceiling or least volts in a scenario, while a motor starts or not."""

    load: str
    under: Under
    scenario: str
    starting: str | None = None


@dataclass(frozen=True, slots=True)
class LimitLine:
    """sum over units of `volts[unit][size]` <= `left`, in V; `held` says what it holds."""

    held: HeldLimit
    left: float
    volts: Mapping[int, Floats]

    def least(self) -> float:
        """The fewest volts that any sizes take."""
        return float(sum(v.min() for v in self.volts.values()))


@dataclass(frozen=True, slots=True)
class LimitLines:
    """The lines of a task; `exact` where no current depends on the sizes, so that the lines are the law."""

    lines: tuple[LimitLine, ...]
    units: tuple[Unit, ...]
    exact: bool


class NotATree(Exception):
    """Currents part by the sizes here: no line can be drawn that holds for every choice."""
