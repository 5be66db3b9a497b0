"""A meter's log: one or more channels over time, what happens in them, and figures of a window.

Steps are found on one channel, the one that shows best whether the load was on: a log of it has two
levels. Where it stands is told by the level nearer, with hysteresis; the beginning of each time the load
was on is its start, until it has settled.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.model.jobs import LogFigure, LogQuantity, LogSegment, LogSegmentKind

WindowKind = LogSegmentKind | Literal["whole", "picked"]
"""What a window of a log is: what was found there, all of it, or what a person picked."""

Floats = NDArray[np.float64]
COARSE = 20_000
"""Steps are looked for in at most so many means of equal stretches."""
LEAST_SHARE = 0.002
"""Two levels are two where they are this share of the larger apart, and six times the noise."""
FEWEST = 3
"""A level has this many coarse samples at least: one bad sample is none."""
MOST_BETWEEN = 0.15
"""And where no more than this share lies in the middle third between them: a drift has no levels."""
NOISE_TIMES = 6.0
"""Two levels stand this many times the noise apart: six sigma, which noise alone does not reach."""
LEAST_S = 0.2
"""What lasts less than this is no state of its own, and no less than three coarse samples."""
SETTLED_SHARE = 0.05
"""A start is over where the channel is this close to what it shows shortly after, or within noise."""
AFTER_SHARE, AFTER_S = 0.02, 0.5
"""Shortly after: this share of the time the load is on, but so long at least."""
TRIM = 0.005, 0.995
"""Ripple is told between these quantiles, so that one bad sample is none."""


@dataclass(frozen=True, slots=True)
class Channel:
    """One channel: its name, what it measured, and its values in SI (NaN where there was none)."""

    name: str
    quantity: LogQuantity
    values: NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class MeterLog:
    """Seconds from the first sample on, never falling, and channels of the same length."""

    seconds: Floats
    channels: tuple[Channel, ...]
    started_at: str | None = None

    @property
    def duration_s(self) -> float:
        """How long it is."""
        return float(self.seconds[-1]) if len(self.seconds) else 0.0


@dataclass(frozen=True, slots=True)
class WindowFigures:
    """Figures of one channel in a window.

    Attributes:
        ripple: what it swings about its own trend, peak to peak.
        drift: how much the trend rises from the window's start to its end.
        count: samples with a value.
    """

    least: float
    most: float
    mean: float
    ripple: float
    drift: float
    count: int


def in_window(log: MeterLog, start_s: float, end_s: float) -> slice:
    """The samples from `start_s` to `end_s`, both counted.

    Args:
        log: what the meter recorded.
    """
    first = int(np.searchsorted(log.seconds, start_s, side="left"))
    return slice(first, int(np.searchsorted(log.seconds, end_s, side="right")))


def figures(log: MeterLog, channel: int, start_s: float, end_s: float) -> WindowFigures | None:
    """Figures of a channel in a window; None where it has no value there.

    The trend is the least-squares line through the values.

    Args:
        log: what the meter recorded.
        start_s: seconds into the log.
        end_s: seconds into the log.
    """
    where = in_window(log, start_s, end_s)
    values = log.channels[channel].values[where].astype(np.float64)
    seconds = log.seconds[where]
    held = np.isfinite(values)
    values, seconds = values[held], seconds[held]
    if len(values) == 0:
        return None
    mean, middle = float(values.mean()), float(seconds.mean())
    around = seconds - middle
    spread = float(around @ around)
    slope = float(around @ (values - mean)) / spread if spread > 0 else 0.0
    low, high = np.quantile(values - mean - slope * around, TRIM)
    return WindowFigures(
        float(values.min()), float(values.max()), mean, float(high - low),
        slope * float(seconds[-1] - seconds[0]), len(values),
    )  # fmt: skip


def instant(log: MeterLog, channel: int, start_s: float, end_s: float, figure: LogFigure) -> float:
    """When a channel showed its least or its most in a window that holds a value of it (s).

    Args:
        log: what the meter recorded.
        start_s: seconds into the log.
        end_s: seconds into the log.
        figure: which of the two.
    """
    where = in_window(log, start_s, end_s)
    values = log.channels[channel].values[where]
    at = np.nanargmin(values) if figure == "least" else np.nanargmax(values)
    return float(log.seconds[where][at])


@dataclass(frozen=True, slots=True)
class Envelope:
    """What is drawn of a channel: the least and the most of every stretch, so that no spike is lost."""

    seconds: Floats
    least: NDArray[np.float32]
    most: NDArray[np.float32]


def envelope(log: MeterLog, channel: int, most: int = 1500) -> Envelope:
    """A channel's least and most in at most so many stretches of equally many samples.

    Samples that are no number are passed over; a stretch of nothing else is NaN.

    Args:
        log: what the meter recorded.

    >>> volts = np.array([12.6, 12.4, np.nan, 12.5], dtype=np.float32)
    >>> seen = envelope(MeterLog(np.arange(4.0), (Channel("a", "volts", volts),), None), 0, most=2)
    >>> [round(float(v), 1) for v in seen.least], [round(float(v), 1) for v in seen.most]
    ([12.4, 12.5], [12.6, 12.5])
    """
    values = log.channels[channel].values
    edges = _edges(len(values), most)
    filled_low = np.where(np.isfinite(values), values, np.float32(np.inf))
    filled_high = np.where(np.isfinite(values), values, np.float32(-np.inf))
    low = np.minimum.reduceat(filled_low, edges[:-1]) if len(values) else filled_low
    high = np.maximum.reduceat(filled_high, edges[:-1]) if len(values) else filled_high
    nothing = ~np.isfinite(low)
    low, high = low.astype(np.float32), high.astype(np.float32)
    low[nothing] = high[nothing] = np.nan
    return Envelope(log.seconds[edges[:-1]], low, high)


def _edges(count: int, most: int) -> NDArray[np.intp]:
    """Where at most so many stretches of equally many samples begin, and the end."""
    edges: NDArray[np.intp] = np.unique(
        np.linspace(0, count, min(most, max(count, 1)) + 1).astype(np.intp)
    )
    return edges


def watched(log: MeterLog, nominal_v: float) -> int | None:
    """The channel that shows best whether the load was on: a current, else the clearest two levels.

    Args:
        log: what the meter recorded.
        nominal_v: the craft's nominal voltage (V).
    """
    scores: list[tuple[bool, float, int]] = []
    for i, channel in enumerate(log.channels):
        levels = _levels(_coarse(log, i)[1])
        if levels is not None:
            low, high, noise = levels
            scores.append((channel.quantity == "amperes", (high - low) / max(noise, 1e-12), i))
    return max(scores)[2] if scores else None


def segments(log: MeterLog, channel: int, nominal_v: float) -> list[LogSegment]:
    """What happens in a log by one of its channels, in order; nothing where it shows but one level.

    A channel near the nominal volts falls while the load is on; every other rises.

    Args:
        nominal_v: the craft's nominal voltage (V).
    """
    seconds, values = _coarse(log, channel)
    levels = _levels(values)
    if levels is None:
        return []
    low, high, noise = levels
    falls = log.channels[channel].quantity == "volts" and high > 0.5 * nominal_v
    on = _on(-values if falls else values, *((-high, -low) if falls else (low, high)))
    step = float(np.median(np.diff(seconds))) if len(seconds) > 1 else 0.0
    out: list[LogSegment] = []
    after = math.ceil(AFTER_S / step) if step else 1
    for start, end, is_on in _stretches(on, max(3, math.ceil(LEAST_S / step) if step else 3)):
        first = float(seconds[start])
        last = float(seconds[end]) - step if end < len(seconds) else log.duration_s
        if not is_on:
            out.append(LogSegment("off", *_within(first, last, step if start else 0.0)))
            continue
        settled = start + _settles(values[start:end], noise, after)
        turned = float(seconds[settled]) if settled < end else last
        if settled > start:
            out.append(LogSegment("start", first, turned))
        if settled < end:
            out.append(LogSegment("steady", *_within(turned, last, step)))
    return out


def _within(start_s: float, end_s: float, step: float) -> tuple[float, float]:
    """A stretch without its first and last coarse sample, where the change itself may lie."""
    if end_s - start_s < 4 * step:
        return start_s, end_s
    return start_s + step, end_s - step


def _coarse(log: MeterLog, channel: int) -> tuple[Floats, Floats]:
    """Means of equal stretches, without those that have no value."""
    values = log.channels[channel].values.astype(np.float64)
    edges = _edges(len(values), COARSE)
    if len(edges) < 2:
        return np.zeros(0), np.zeros(0)
    held = np.isfinite(values)
    counts = np.add.reduceat(held.astype(np.float64), edges[:-1])
    sums = np.add.reduceat(np.where(held, values, 0.0), edges[:-1])
    some = counts > 0
    return log.seconds[edges[:-1]][some], sums[some] / counts[some]


def _levels(values: Floats) -> tuple[float, float, float] | None:
    """Two levels and the noise, where the values have two; the split has the least variance within.

    N. Otsu, A threshold selection method from gray-level histograms, IEEE Trans. SMC 9, 1979.
    """
    if len(values) <= 2 * FEWEST:
        return None
    noise = 1.4826 * float(np.median(np.abs(np.diff(values)))) / math.sqrt(2)
    ranked = np.sort(values)
    counts = np.arange(1, len(ranked))
    sums = np.cumsum(ranked)
    lower = sums[:-1] / counts
    upper = (sums[-1] - sums[:-1]) / (len(ranked) - counts)
    between = counts * (len(ranked) - counts) * (upper - lower) ** 2
    split = int(np.argmax(between[FEWEST - 1 : len(between) - FEWEST + 1])) + FEWEST
    low, high = float(np.median(ranked[:split])), float(np.median(ranked[split:]))
    apart = high - low
    larger = max(abs(low), abs(high))
    if apart < max(LEAST_SHARE * larger, NOISE_TIMES * noise, 1e-9):
        return None
    third = apart / 3
    between_them = np.mean((values > low + third) & (values < high - third))
    return None if between_them > MOST_BETWEEN else (low, high, noise)


def _on(values: Floats, low: float, high: float) -> NDArray[np.bool_]:
    """Whether the load was on: above two thirds of the way it is, below one third it is not."""
    upper, lower = low + (high - low) * 2 / 3, low + (high - low) / 3
    state = np.where(values > upper, 1, np.where(values < lower, 0, -1))
    # In between it stands as it stood before; at the very start as it comes to stand.
    known = np.flatnonzero(state >= 0)
    if len(known) == 0:
        return np.zeros(len(values), dtype=bool)
    before = np.maximum.accumulate(np.where(state >= 0, np.arange(len(state)), -1))
    filled: NDArray[np.bool_] = state[np.where(before >= 0, before, known[0])] == 1
    return filled


def _stretches(on: NDArray[np.bool_], least: int) -> list[tuple[int, int, bool]]:
    """Stretches of one state, those that are too short joined to what is around them."""
    edges = [0, *(np.flatnonzero(np.diff(on)) + 1).tolist(), len(on)]
    held = [(a, b, bool(on[a])) for a, b in pairwise(edges) if b > a]
    joined: list[tuple[int, int, bool]] = []
    for start, end, state in held:
        if joined and (end - start < least or joined[-1][2] == state):
            joined[-1] = (joined[-1][0], end, joined[-1][2])
        elif joined and joined[-1][1] - joined[-1][0] < least and len(joined) == 1:
            joined[-1] = (joined[-1][0], end, state)
        else:
            joined.append((start, end, state))
    return joined


def _settles(values: Floats, noise: float, after: int) -> int:
    """How many samples a start takes: until each is close to what is shown shortly after it."""
    wait = max(after, math.ceil(AFTER_SHARE * len(values)))
    if len(values) <= 2 * wait:
        wait = max(len(values) // 4, 1)
    from scipy.ndimage import median_filter  # noqa: PLC0415 - a fifth of a second, for logs alone

    later = median_filter(values, size=2 * wait + 1, mode="nearest")
    later = np.concatenate([later[2 * wait :], np.full(min(2 * wait, len(later)), later[-1])])
    close = np.maximum(SETTLED_SHARE * np.abs(later), 3 * noise)
    far = np.flatnonzero(np.abs(values - later[: len(values)]) > close)
    early = far[far < len(values) // 2]
    # A swing long after is none of the start: what comes first counts, up to the first quiet stretch.
    quiet = np.flatnonzero(np.diff(np.concatenate([[-1], early])) > 2 * wait + 1)
    if len(quiet):
        early = early[: quiet[0]]
    return int(early[-1]) + 1 if len(early) else 0


def numbered(found: Sequence[LogSegment]) -> list[int]:
    """The number of each segment among those of its kind, from 1.

    Args:
        found: the segments, in order.

    >>> numbered([LogSegment("off", 0, 1), LogSegment("steady", 1, 2), LogSegment("off", 2, 3)])
    [1, 1, 2]
    """
    seen: dict[LogSegmentKind, int] = {}
    out = []
    for each in found:
        seen[each.kind] = seen.get(each.kind, 0) + 1
        out.append(seen[each.kind])
    return out
