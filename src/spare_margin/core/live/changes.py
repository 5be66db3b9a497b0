"""A change under leads that stay: what a loom does while it is shaken, warmed, driven.

What the figure stood at is the middle of the last quiet seconds. A change is a figure further from it than
what was set, or none at all; it is over once the figure was back for a second, or stood elsewhere for so
long that it stays there, which is then what it is held against.
"""

from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from statistics import median

from spare_margin.core.model.values import Seconds

from .samples import Sample
from .steady import GAP_S, sign, swung

QUIET_S: Seconds = 2.0
"""What a figure stood at is told by so many seconds of it."""
BACK_S: Seconds = 1.0
"""A change is over once the figure was back for so long."""
STAYS_S: Seconds = 10.0
"""A figure that was elsewhere for so long stays there."""
MOST_STRETCHES = 100
"""Stretches between gaps that are remembered."""
BACK_SHARE = 0.5
"""It is back within this share of the change that was set."""


@dataclass(frozen=True, slots=True)
class Change:
    """A figure that left what it stood at.

    Attributes:
        start_s: when (s).
        end_s: when it was last away (s).
        stood_at: what it stood at before (V, A, ohm).
        went_to: the figure furthest from that; None where it showed none, as over its range.
        stays: whether it stayed away.
        in_air: whether the figures while it was away look like leads that came off.
    """

    start_s: Seconds
    end_s: Seconds
    stood_at: float
    went_to: float | None
    stays: bool = False
    in_air: bool = False


@dataclass
class Changes:
    """Watches one meter's samples, oldest first, for changes of more than `least` (V, A, ohm).

    Attributes:
        now: the change that goes on; None while it is quiet.
        stood_at: what the figure stands at; None until that is known.
        watched_s: for how long figures came (s): a meter that was gone watched nothing.
        stretches: from when to when figures came without a gap (s), the newest last; so many are kept.
    """

    least: float
    now: Change | None = None
    stood_at: float | None = None
    watched_s: Seconds = 0.0
    stretches: deque[tuple[Seconds, Seconds]] = field(
        default_factory=lambda: deque(maxlen=MOST_STRETCHES)
    )
    _last_s: float | None = None
    _quiet: deque[Sample] = field(default_factory=deque)
    _back_from: float | None = None
    _signs: set[int | None] = field(default_factory=set)

    def take(self, sample: Sample) -> Change | None:
        """Look at one more sample; a change once it is over, or once the meter was away.

        Args:
            sample: what the meter shows now.
        """
        between = 0.0 if self._last_s is None else sample.at_s - self._last_s
        self._last_s = sample.at_s
        ended = None
        if between > GAP_S:
            # Whatever happened meanwhile, nobody saw it; what went on until then was seen.
            ended = None if self.now is None else self._over(self.now)
            self.stood_at = None
            self._quiet.clear()
        else:
            self.watched_s += between
        if between > GAP_S or not self.stretches:
            self.stretches.append((sample.at_s, sample.at_s))
        self.stretches[-1] = self.stretches[-1][0], sample.at_s
        if self.stood_at is None or self.now is None:
            self._while_quiet(sample)
            return ended
        change = self.now
        away = self._away(sample, BACK_SHARE)
        if away:
            self._back_from = None
            self._signs.add(sign(sample))
            self.now = replace(
                change, end_s=sample.at_s, went_to=self._further(change.went_to, sample.value),
                in_air=swung(self._signs),
            )  # fmt: skip
            if sample.at_s - change.start_s >= STAYS_S:
                return self._over(replace(self.now, stays=True))
            return None
        self._back_from = sample.at_s if self._back_from is None else self._back_from
        return self._over(change) if sample.at_s - self._back_from >= BACK_S else None

    def _while_quiet(self, sample: Sample) -> None:
        if self.stood_at is not None and self._away(sample, 1.0):
            self._signs = {sign(sample)}
            self.now = Change(
                sample.at_s, sample.at_s, self.stood_at, sample.value, in_air=swung(self._signs)
            )
            self._back_from = None
            return
        if sample.value is None:
            self._quiet.clear()
            return
        self._quiet.append(sample)
        while self._quiet[0].at_s < sample.at_s - QUIET_S:
            self._quiet.popleft()
        values = [s.value for s in self._quiet if s.value is not None]
        long = sample.at_s - self._quiet[0].at_s >= 0.8 * QUIET_S
        if long and max(values) - min(values) <= self.least:
            self.stood_at = median(values)

    def _over(self, change: Change) -> Change:
        self.now = self._back_from = None
        self._quiet.clear()
        if change.stays:
            self.stood_at = None
        return change

    def _away(self, sample: Sample, share: float) -> bool:
        if sample.value is None or self.stood_at is None:
            return True
        return abs(sample.value - self.stood_at) > share * self.least

    def _further(self, one: float | None, other: float | None) -> float | None:
        if one is None or other is None or self.stood_at is None:
            return None
        return max(one, other, key=lambda value: abs(value - (self.stood_at or 0.0)))


def quiet(
    stretches: Sequence[tuple[Seconds, Seconds]], changes: Sequence[Change]
) -> list[tuple[Seconds, Seconds]]:
    """From when to when figures came and nothing changed (s), in order.

    Args:
        stretches: from when to when figures came (s).
        changes: what changed, in order.

    >>> quiet([(0, 60), (90, 120)], [Change(20, 22, 0.4, 0.9)])
    [(0, 20), (22, 60), (90, 120)]
    """
    out = []
    for start, end in stretches:
        since = start
        for each in changes:
            if since <= each.start_s <= end:
                out.append((since, each.start_s))
                since = max(since, each.end_s)
        out.append((since, end))
    return [(start, end) for start, end in out if end > start]
