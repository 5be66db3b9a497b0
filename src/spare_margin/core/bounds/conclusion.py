"""What the readings of a run come to, as values: the one conclusion that everything else shows."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.model.pieces import Side

from .constraints import Bound

Headline = Literal[
    "contradiction", "no_current", "open", "over", "over_as_ran", "within", "within_as_ran",
    "too_close", "not_read",
]  # fmt: skip
Verdict = Literal[
    "contradiction", "over", "over_as_ran", "within", "within_as_ran", "too_close", "not_judged"
]
SideVerdict = Literal[
    "over", "over_as_ran", "within", "within_as_ran", "too_close", "not_judged"
]  # fmt: skip
Missing = Literal["feed", "return", "current", "source"]
Together = Literal["together"]
VERDICTS: Mapping[Headline, Verdict] = {
    "contradiction": "contradiction", "no_current": "not_judged", "open": "not_judged",
    "over": "over", "over_as_ran": "over_as_ran", "within": "within",
    "within_as_ran": "within_as_ran", "too_close": "too_close", "not_read": "not_judged",
}  # fmt: skip
"""What a headline says of the limits."""


@dataclass(frozen=True, slots=True)
class Range:
    """The least and the most that something can be (V); None where nothing bounds it."""

    low: float | None
    high: float | None

    @property
    def volts(self) -> float | None:
        """The middle, where it is bounded on both sides."""
        return None if self.low is None or self.high is None else (self.low + self.high) / 2

    @property
    def half(self) -> float | None:
        """The half-width, where it is bounded on both sides."""
        return None if self.low is None or self.high is None else (self.high - self.low) / 2


@dataclass(frozen=True, slots=True)
class AgainstLimit:
    """One side, or both together, against its limit in the moment that counts.

    Attributes:
        ran: what was lost when it was read; `loaded` at the loaded current of the worst scenario.
        direct: whether it was read across itself, or piece by piece.
        by: what bounds it most tightly, from above; from below where it is over.
    """

    part: Side | Together
    ran: Range
    loaded: Range
    limit_v: float | None
    verdict: SideVerdict
    direct: bool
    by: tuple[Bound, ...]
    scenario: str = ""

    @property
    def readings(self) -> tuple[str, ...]:
        """The ids of the readings it rests on."""
        return tuple(dict.fromkeys(r for bound in self.by for r in bound.readings))


@dataclass(frozen=True, slots=True)
class Found:
    """A piece that no circuit with these readings can acquit: what it drops too much, or open.

    `ohm` are its least and its most (None without a current).
    """

    piece: str
    kind: Literal["excess_resistance", "open"]
    side: Side
    drop: Range
    allowed_v: float | None
    ohm: tuple[float, float] | None
    readings: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Reread:
    """One pair of points to read next: `kind` is current where it is the load's."""

    kind: Literal["current", "source", "load", "side", "span"]
    red: str
    black: str
    side: Side | None = None


@dataclass(frozen=True)
class Conclusion:
    """All of it as one value.

    Attributes:
        conditions: the moment that counts; None where nothing was read with the load on.
        loaded: whether a meter proves current there; None where none says.
        amperes: what the load draws there (A), its least and its most.
        found, cleared: pieces that are at fault, and that no circuit can convict, by id.
        between: the smallest span that must hold the excess, or the open, where no piece is found.
        more: between which points lies what the found pieces do not explain; None where they explain all.
        contradicting: readings that cannot all be true.
        missing: what keeps it from a verdict.
        unless_a: current (A) above which the load itself would be to blame, where none was read.
        unsettled: whether the verdict hangs on a source that may have moved.
        comes_and_goes: whether it was open or over in one moment and well in another, between which points.
        next: what to read next; empty where nothing is left to ask.
    """

    headline: Headline
    conditions: Conditions | None = None
    loaded: bool | None = None
    amperes: tuple[float, float] | None = None
    sides: Mapping[Side, AgainstLimit] | None = None
    together: AgainstLimit | None = None
    found: tuple[Found, ...] = ()
    cleared: frozenset[str] = frozenset()
    between: tuple[str, str] | None = None
    more: tuple[str, str] | None = None
    contradicting: tuple[str, ...] = ()
    missing: Missing | None = None
    unless_a: float | None = None
    unsettled: bool = False
    comes_and_goes: tuple[str, str] | None = None
    to_read: tuple[Reread, ...] = ()

    @property
    def verdict(self) -> Verdict:
        """What the headline says of the limits."""
        return VERDICTS[self.headline]
