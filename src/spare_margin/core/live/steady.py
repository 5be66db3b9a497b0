"""Whether leads touch something and the figure stands still: what may be taken by itself, once.

A figure stands still when all of the last second stays within three counts or 0.3 %, whichever is more. It
is offered once, after the leads were seen in the air: a display without a figure, at nought, or wandering
near it. So what changes under leads that stay (a load that starts, an engine that cranks) is
never taken for the next place. Near nought nobody can tell a good joint from leads in the air, and the same
figure again may be a load that was off for a while, unless the leads swung both ways meanwhile: neither is
taken by itself; a press takes it. Volts and
amperes are followed apart: leads stay where they lie while the switch is turned to the clamp and back, or
while the meter is away.
"""

from collections import deque
from collections.abc import Set
from dataclasses import dataclass, field
from typing import Literal

from spare_margin.core.model.values import Seconds

from .samples import LiveQuantity, Sample

STEADY_S: Seconds = 1.0
"""So long a figure must stand still."""
STEADY_COUNTS, STEADY_SHARE = 3.0, 0.003
"""It stands still within so many counts, or this share of it."""
LIFTED_S: Seconds = 0.3
"""Leads that were in the air for less than this were knocked, not lifted."""
AIR_V = 0.15
"""Leads in the air wander within so much of nought (V), by what they pick up."""
LEAST_SAMPLES = 3
"""Fewer than this in a second show nothing of how still a figure stands."""
NEAR_COUNTS = 5.0
"""Within so many counts of nought leads in the air look like leads on a good joint."""
GAP_S: Seconds = 1.5
"""With nothing for so long, what came before is no part of what is steady now."""

Hands = Literal["waiting", "moving", "ready", "steady", "taken"]
"""Nothing to see yet; unsteady, not lifted yet; lifted; steady; steady, and taken or not lifted before."""


@dataclass(frozen=True, slots=True)
class Standing:
    """A figure that stands still.

    Attributes:
        value: the middle of what was shown (V, A, ohm).
        spread: from the least to the most of it (same unit).
        samples: how many.
        from_s: when it began to stand still (s).
        to_s: when it was looked at last (s).
        last: the last sample of it.
        near_nought: whether leads in the air would look the same.
    """

    value: float
    spread: float
    samples: int
    from_s: float
    to_s: float
    last: Sample
    near_nought: bool


@dataclass
class Steady:
    """Follows a meter's samples, oldest first.

    Attributes:
        hands: what the hands seem to do.
        standing: the figure that stands still now; None where none does.
    """

    hands: Hands = "waiting"
    standing: Standing | None = None
    _window: deque[Sample] = field(default_factory=deque)
    _air_from: float | None = None
    _took: dict[LiveQuantity, Standing] = field(default_factory=dict)
    _lifted: set[LiveQuantity] = field(default_factory=set)
    _swung: set[int | None] = field(default_factory=set)

    def take(self, sample: Sample) -> Standing | None:
        """Follow one more sample; a figure to be taken by itself, once for each time the leads are set.

        Args:
            sample: what the meter shows now.
        """
        before = self._window[-1] if self._window else None
        if before is not None and not _goes_on(before, sample):
            self.interrupted()
            before = None
        self._window.append(sample)
        while len(self._window) > 1 and self._window[1].at_s <= sample.at_s - STEADY_S:
            self._window.popleft()
        self.standing = _standing(self._window)
        if _in_air(before, sample):
            self._air_from = sample.at_s if self._air_from is None else self._air_from
            self._swung.add(sign(sample))
            if sample.at_s - self._air_from >= LIFTED_S:
                self._lifted.add(sample.quantity)
        lifted = sample.quantity in self._lifted
        if self.standing is None:
            self.hands = "ready" if lifted else "moving"
            return None
        if not self.standing.near_nought:
            self._air_from = None
        self.hands = "steady" if lifted else "taken"
        if not lifted or self.standing.near_nought or self._same(self.standing):
            return None
        return self.took()

    def took(self) -> Standing | None:
        """Take what stands still now, as by a press: not offered again until the leads are set anew."""
        if self.standing is not None:
            quantity = self.standing.last.quantity
            self._took[quantity] = self.standing
            self._lifted.discard(quantity)
            self._air_from, self.hands = None, "taken"
            self._swung.clear()
        return self.standing

    def interrupted(self) -> None:
        """The meter was away, or turned to another kind of figure: nobody saw where the leads went."""
        self._window.clear()
        self._air_from = self.standing = None
        self.hands = "waiting"

    def _same(self, standing: Standing) -> bool:
        """Whether what stands still is what was taken last of its kind, and may be there still."""
        took = self._took.get(standing.last.quantity)
        # Leads that swing both ways, or show nothing, hang in the air: no load that is off does that.
        if took is None or swung(self._swung):
            return False
        return abs(standing.value - took.value) <= 2 * tolerance(took.value, took.last.step)


def _goes_on(before: Sample, now: Sample) -> bool:
    same = (before.quantity, before.mode) == (now.quantity, now.mode)
    return same and 0 <= now.at_s - before.at_s <= GAP_S


def _in_air(before: Sample | None, now: Sample) -> bool:
    """Whether leads in the air look like this: no figure, nought, or wandering near it."""
    if now.value is None or abs(now.value) <= NEAR_COUNTS * now.step:
        return True
    if now.quantity != "volts" or abs(now.value) > AIR_V:
        return False
    was = None if before is None else before.value
    return was is not None and abs(now.value - was) > tolerance(now.value, now.step)


def sign(sample: Sample) -> int | None:
    """Which way a figure stands off nought; None where there is none, 0 where it is nought.

    Args:
        sample: what the meter shows.
    """
    if sample.value is None:
        return None
    if abs(sample.value) <= NEAR_COUNTS * sample.step:
        return 0
    return 1 if sample.value > 0 else -1


def swung(signs: Set[int | None]) -> bool:
    """Whether leads that show these signs hang in the air: both ways, or no figure at all.

    Args:
        signs: which ways the figures stood off nought.

    >>> swung({-1, 0, 1}), swung({None}), swung({0, 1})
    (True, True, False)
    """
    return None in signs or {-1, 1} <= signs


def tolerance(value: float, step: float) -> float:
    """From the least to the most that a figure which stands still may show (same unit).

    Args:
        value: what it shows (V, A, ohm).
        step: what its last digit counts (same unit).

    >>> tolerance(12.5, 0.01), tolerance(0.4, 0.001)
    (0.0375, 0.003)
    """
    return max(STEADY_COUNTS * step, STEADY_SHARE * abs(value))


def _standing(window: deque[Sample]) -> Standing | None:
    """What stands still over the whole of a window; None where it does not, or is too short to tell."""
    values = [s.value for s in window if s.value is not None]
    if len(values) < max(len(window), LEAST_SAMPLES):
        return None
    first, last = window[0], window[-1]
    # A tenth less than a second: samples come when they come.
    if last.at_s - first.at_s < 0.9 * STEADY_S:
        return None
    low, high = min(values), max(values)
    middle = sorted(values)[len(values) // 2]
    if high - low > tolerance(middle, last.step) + 1e-12:
        return None
    near = abs(middle) <= NEAR_COUNTS * last.step
    return Standing(middle, high - low, len(values), first.at_s, last.at_s, last, near)
