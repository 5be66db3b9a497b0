"""What the figures of a source say, each finding with the quantities behind it in SI."""

from dataclasses import dataclass
from typing import ClassVar


@dataclass(frozen=True, slots=True)
class Reversed:
    """It reads negative."""

    good: ClassVar[bool | None] = False


@dataclass(frozen=True, slots=True)
class SurfaceCharge:
    """More than these volts at rest."""

    good: ClassVar[bool | None] = None
    volts: float


@dataclass(frozen=True, slots=True)
class Flat:
    """Too little at rest to judge anything by."""

    good: ClassVar[bool | None] = False


@dataclass(frozen=True, slots=True)
class Charged:
    """Its share of charge; `good` where that is enough."""

    charge: float
    good: bool


@dataclass(frozen=True, slots=True)
class LithiumLow:
    """A lithium battery below these volts at rest."""

    good: ClassVar[bool | None] = None
    volts: float


@dataclass(frozen=True, slots=True)
class LithiumFlatStretch:
    """Between these volts a lithium battery's charge cannot be told from them."""

    good: ClassVar[bool | None] = True
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class RisenUnderLoad:
    """More volts under load than at rest."""

    good: ClassVar[bool | None] = None


@dataclass(frozen=True, slots=True)
class Sags:
    """It falls by `volts` while `amperes` flow: so many `ohm` inside."""

    good: ClassVar[bool | None] = None
    volts: float
    amperes: float
    ohm: float


@dataclass(frozen=True, slots=True)
class Clamps:
    """What both clamps drop together, and their ohms; `good` where that is no fault."""

    volts: float
    ohm: float
    good: bool


@dataclass(frozen=True, slots=True)
class LoadTest:
    """The load test ended at `volts`, `least` passes at that temperature; `good` where it passed."""

    volts: float
    celsius: float
    least: float
    good: bool


@dataclass(frozen=True, slots=True)
class NotCharging:
    """No more volts while charging than at rest."""

    good: ClassVar[bool | None] = False


@dataclass(frozen=True, slots=True)
class ChargingUnusual:
    """Charging volts outside of what is usual."""

    good: ClassVar[bool | None] = False
    volts: float
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Charging:
    """Charging volts as they should be."""

    good: ClassVar[bool | None] = True
    volts: float


SourceFinding = (
    Reversed
    | SurfaceCharge
    | Flat
    | Charged
    | LithiumLow
    | LithiumFlatStretch
    | RisenUnderLoad
    | Sags
    | Clamps
    | LoadTest
    | NotCharging
    | ChargingUnusual
    | Charging
)
"""One thing the figures say; `good` is None where it is neither good nor bad."""
