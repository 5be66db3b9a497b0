"""What a check has to say, as values: one small class each, with the readings, the piece, quantities in SI.

Words are made of them at the edge; nothing asks what a sentence says.
"""

from dataclasses import dataclass
from typing import ClassVar, Literal, TypeVar, dataclass_transform

from spare_margin.core.model.jobs import Quantity
from spare_margin.core.model.pieces import Side

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
"""What a finding is called in answers and files."""


T = TypeVar("T")


@dataclass_transform(frozen_default=True, kw_only_default=True)
def _finding(cls: type[T]) -> type[T]:
    return dataclass(frozen=True, slots=True, kw_only=True)(cls)


@_finding
class _Found:
    """What every finding has.

    Attributes:
        code: what it is called in answers and files.
        readings: ids of the readings it is about.
        piece: id of the piece it is about.
    """

    code: ClassVar[FindingCode]
    readings: tuple[str, ...] = ()
    piece: str | None = None


# Of a reading


@_finding
class Swapped(_Found):
    """Red and black stood the other way round: it showed `volts`, and counts with the sign turned."""

    code = "swapped"
    volts: float


@_finding
class Reversed(_Found):
    """The source itself was read negative."""

    code = "reversed"


@_finding
class Impossible(_Found):
    """`volts` where there can be `most_v`; `millivolts` where that was probably meant."""

    code = "impossible"
    volts: float
    most_v: float
    millivolts: bool = False


@_finding
class OverRange(_Found):
    """The meter showed no number: over its range."""

    code = "over_range"


@_finding
class Wandering(_Found):
    """The display did not settle."""

    code = "wandering"


@_finding
class NotReachable(_Found):
    """No lead gets there."""

    code = "not_reachable"


@_finding
class Changed(_Found):
    """Taken before what it is about was changed."""

    code = "changed"


@_finding
class Coarse(_Found):
    """A reading that is good to `doubt_v` only, where `allowed_v` may be lost."""

    code = "coarse"
    allowed_v: float
    doubt_v: float


@_finding
class RepeatsDiffer(_Found):
    """One place, one moment: `first` and then `last`, further apart than the meter's doubt (V or A).

    They are the two furthest apart; `who` read each, empty where both are one person's or nobody said.
    """

    code = "repeats_differ"
    quantity: Quantity
    first: float
    last: float
    who: tuple[str, str] = ("", "")


@_finding
class Contradiction(_Found):
    """Readings that cannot all be true."""

    code = "contradiction"


@_finding
class SourceUnsettled(_Found):
    """A verdict hangs on the source, and no two readings of it agree yet."""

    code = "source_unsettled"


# Of a piece


@_finding
class Moves(_Found):
    """Moving the piece took the reading from `least_v` to `most_v`."""

    code = "moves"
    least_v: float
    most_v: float


@_finding
class Heats(_Found):
    """A joint turns `watts` into heat."""

    code = "heats"
    watts: float


@_finding
class Burns(_Found):
    """A joint turns so many `watts` into heat that it is a fire hazard."""

    code = "burns"
    watts: float


@_finding
class SurfaceWarm(_Found):
    """A piece is `kelvin` warmer than the cable beside it."""

    code = "surface_warm"
    kelvin: float


@_finding
class SurfaceHot(_Found):
    """A piece is `kelvin` warmer than the cable beside it: a fire hazard."""

    code = "surface_hot"
    kelvin: float


@_finding
class ALittleHigh(_Found):
    """A piece above its allowance, in a side that keeps its limit."""

    code = "a_little_high"
    volts: float
    allowed_v: float


@_finding
class Trend(_Found):
    """One span, read in two moments: volts before and after, and ohms where they are known."""

    before_v: float
    after_v: float
    before_ohm: float | None = None
    after_ohm: float | None = None


@_finding
class Changes(Trend):
    """A span that is another in another moment, and not by its warm-up."""

    code = "changes"


@_finding
class GrowsWarm(Trend):
    """A span that loses more when warm; `cold_min` and `warm_min` are the minutes its load had been on."""

    code = "grows_warm"
    cold_min: float
    warm_min: float


@_finding
class ShrinksWarm(Trend):
    """A span that loses less when warm; as GrowsWarm."""

    code = "shrinks_warm"
    cold_min: float
    warm_min: float


@_finding
class ComesAndGoes(_Found):
    """Something between two points was bad in one moment and well in another."""

    code = "comes_and_goes"
    start: str
    end: str


@_finding
class ProtectionOpen(_Found):
    """A fuse or a breaker that may have opened."""

    code = "protection_open"
    kind: Literal["fuse", "breaker"]


@_finding
class ContactStuck(_Found):
    """A contact that was commanded open and joins all the same, with `ohm`."""

    code = "contact_stuck"
    ohm: float


# Of a load


@_finding
class NotLoaded(_Found):
    """No current flowed through the load."""

    code = "not_loaded"
    load: str


@_finding
class LowCurrent(_Found):
    """The load draws `amperes` where `drawn_a` is expected: too little."""

    code = "low_current"
    amperes: float
    drawn_a: float


@_finding
class HighCurrent(_Found):
    """The load draws `amperes` where `drawn_a` is expected: too much."""

    code = "high_current"
    amperes: float
    drawn_a: float


@_finding
class DropsOut(_Found):
    """In a scenario the load gets `volts` at most, and stops working."""

    code = "drops_out"
    scenario: str
    volts: float


@_finding
class LoadOpen(_Found):
    """An ohmmeter finds no way through the load."""

    code = "load_open"
    load: str


@_finding
class LoadOhms(_Found):
    """The load has `ohm` where it should have `should_ohm`."""

    code = "load_ohms"
    load: str
    ohm: float
    should_ohm: float


@_finding
class BenchCurrent(_Found):
    """On the bench, at `volts`, the load draws `amperes` where it should draw `should_a`."""

    code = "bench_current"
    load: str
    amperes: float
    should_a: float
    volts: float
    off: bool


@_finding
class LampUnderLoad(_Found):
    """A test lamp stayed dark while the load was on: it may be an open, or a joint that takes all volts."""

    code = "lamp_under_load"
    load: str


# Of the run


@_finding
class LampDim(_Found):
    """A test lamp was dim."""

    code = "lamp_dim"


@_finding
class NotProven(_Found):
    """No reading shows yet that current flowed."""

    code = "not_proven"


@_finding
class Over(_Found):
    """The run is over: the verdict itself says so."""

    code = "over"


@_finding
class OverAsDrawn(_Found):
    """The run is over, and no piece is worse than it is drawn."""

    code = "over_as_drawn"


@_finding
class MoreLostThanDrawn(_Found):
    """A side loses `volts` more than it should as drawn."""

    code = "more_lost_than_drawn"
    side: Side
    volts: float


@_finding
class Ripples(_Found):
    """`volts` of ripple while charging, where up to `most_v` is usual."""

    code = "ripples"
    volts: float
    most_v: float


OfReading = (
    Swapped | Reversed | Impossible | OverRange | Wandering | NotReachable | Changed | Coarse
    | RepeatsDiffer | Contradiction | SourceUnsettled
)  # fmt: skip
OfPiece = (
    Moves | Heats | Burns | SurfaceWarm | SurfaceHot | ALittleHigh | Changes | GrowsWarm
    | ShrinksWarm | ComesAndGoes | ProtectionOpen | ContactStuck
)  # fmt: skip
OfLoad = (
    NotLoaded | LowCurrent | HighCurrent | DropsOut | LoadOpen | LoadOhms | BenchCurrent
    | LampUnderLoad
)  # fmt: skip
OfRun = LampDim | NotProven | Over | OverAsDrawn | MoreLostThanDrawn | Ripples
Finding = OfReading | OfPiece | OfLoad | OfRun
"""All that a check can have to say."""
Burning = Burns | SurfaceHot
"""Something that is a fire hazard now."""
