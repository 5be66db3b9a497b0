"""One recording for a job: a trace, a start that is waited for, a watch for changes."""

from dataclasses import dataclass, field
from threading import RLock
from typing import Literal

import numpy as np

from spare_margin.core.errors import JobError
from spare_margin.core.live.changes import Change, Changes, quiet
from spare_margin.core.live.kept import AROUND_S, Kept
from spare_margin.core.live.samples import LiveQuantity, Sample
from spare_margin.core.live.starts import Armed, Start
from spare_margin.core.measure.meter_logs import Channel, MeterLog
from spare_margin.core.model.jobs import Hold, LogChannel, LogQuantity, LogSegment
from spare_margin.instruments.watched import Shown
from spare_margin.service.readings.taking import Typed

Kind = Literal["trace", "start", "watch"]
MOST_CHANGES = 100
"""Changes of a watch that are kept one by one; more are counted."""
QUANTITIES: dict[LiveQuantity, LogQuantity] = {
    "volts": "volts",
    "amperes": "amperes",
    "ohms": "other",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordedMeter:
    """A meter that is recorded: its id, what it is called, its row in the table, where its leads are."""

    meter: str
    name: str
    spec: str
    red: str = ""
    black: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """What is to be recorded. The first of the meters is the one that a start or a change is looked for on.

    Attributes:
        id: of the recording, and of the log that it becomes.
        name: what the log is called.
        least_change: of a watch, what counts as a change (V, A).
        hold: of a start, which end of it is the reading.
        typed: what readings that come of it say of their moment.
    """

    id: str
    job: str
    kind: Kind
    name: str
    meters: tuple[RecordedMeter, ...]
    typed: Typed
    least_change: float = 0.05
    hold: Hold = "most"


@dataclass
class Noted:
    """A change that was noted, and the piece that was moved meanwhile; None while nobody said."""

    change: Change
    moved: str | None = None
    taken: bool = False


@dataclass
class Recording:
    """Hears meters, in their own threads, until it is over."""

    wanted: Wanted
    started_at: str = ""
    is_over: bool = False
    is_full: bool = False
    changes: list[Noted] = field(default_factory=list)
    uncounted: int = 0
    moving: str = ""
    start: Start | None = None
    start_taken: bool = False
    wrong: str = ""
    is_saved: bool = False
    _kept: Kept = field(init=False)
    _watch: Changes = field(init=False)
    _armed: Armed = field(default_factory=Armed)
    _quantities: dict[int, LiveQuantity] = field(default_factory=dict)
    _first_s: float | None = None
    _last_s: float = 0.0
    _unsaved: bool = False
    _lock: RLock = field(default_factory=RLock)

    def __post_init__(self) -> None:
        self._kept = Kept(all_of_it=self.wanted.kind == "trace")
        self._watch = Changes(self.wanted.least_change)

    def hear(self, meter: str, shown: Shown) -> None:
        """Take what a meter shows, where it is one of these and shows what it showed before."""
        sample = shown.sample
        at = next((i for i, m in enumerate(self.wanted.meters) if m.meter == meter), None)
        if at is None or sample is None or shown.state not in ("live", "over_range"):
            return
        with self._lock:
            if self.is_over or self._quantities.setdefault(at, sample.quantity) != sample.quantity:
                return
            if self._first_s is None:
                self._first_s, self.started_at = sample.at_s, shown.taken_at
            self._add(at, sample)
            if at == 0:
                self._look(sample)
            self._unsaved = True

    def before(self, meter: str, samples: list[tuple[str, Sample]]) -> None:
        """Take what a meter showed before the recording began, each with when (UTC)."""
        for taken_at, sample in samples:
            if sample.mode != "ac":
                self.hear(meter, Shown(0, "live", sample=sample, taken_at=taken_at))

    def stop(self) -> None:
        """End it."""
        with self._lock:
            if self._watch.now is not None:
                self._note(self._watch.now)
            self.is_over = self._unsaved = True

    def say_moving(self, piece: str) -> None:
        """Say which piece is moved from now on; empty: none."""
        with self._lock:
            self.moving = piece

    def say_moved(self, number: int, piece: str) -> None:
        """Say which piece was moved when a figure changed; empty: none was.

        JobError where there is no such change, or it looks like a lead that came off.
        """
        with self._lock:
            if not 0 <= number < len(self.changes):
                raise JobError("change", f"there is no change {number}", "a change of this watch")
            noted = self.changes[number]
            if noted.change.in_air or noted.change.went_to is None:
                raise JobError("change", "looks like a lead that came off", "a change of a figure")
            if noted.taken:
                raise JobError("change", "is kept as a reading already", "one that is not")
            noted.moved, self._unsaved = piece, True

    @property
    def watched_s(self) -> float:
        """For how long figures came (s)."""
        with self._lock:
            if self.wanted.kind == "watch":
                return self._watch.watched_s
            return 0.0 if self._first_s is None else self._last_s - self._first_s

    @property
    def quantity(self) -> LiveQuantity:
        """What the first of the meters shows."""
        return self._quantities.get(0, "volts")

    @property
    def hold(self) -> Hold:
        """Which end of a start is the reading: of a current always the most."""
        return "most" if self.quantity == "amperes" else self.wanted.hold

    @property
    def going_on(self) -> Change | None:
        """The change that goes on now."""
        return self._watch.now

    @property
    def is_armed(self) -> bool:
        """Whether a start would be caught: the figure stands still."""
        return self._armed.before is not None

    def due(self) -> bool:
        """Whether there is something that was not given to be saved yet."""
        with self._lock:
            due, self._unsaved = self._unsaved, False
            # Of a start nothing is kept before there is one.
            return due and (self.wanted.kind != "start" or self.start is not None)

    def log(self) -> tuple[MeterLog, tuple[LogChannel, ...], tuple[LogSegment, ...]]:
        """What is kept so far, its channels, and what happened in it."""
        # The meters wait only while the rows are copied.
        with self._lock:
            table, zero, segments = self._kept.rows(), self._zero(), self._segments()
            quantities, started_at, start = dict(self._quantities), self.started_at, self.start
        if start is not None:
            table = table[table[:, 0] >= start.step_s - AROUND_S]
        channels = []
        for i, meter in enumerate(self.wanted.meters):
            values = np.where(table[:, 1] == i, table[:, 2], np.nan).astype(np.float32)
            quantity = QUANTITIES[quantities.get(i, "volts")]
            channels.append(Channel(meter.name, quantity, values))
        told = tuple(
            LogChannel(name=m.name, quantity=c.quantity, red=m.red, black=m.black, meter=m.spec)
            for m, c in zip(self.wanted.meters, channels, strict=True)
        )
        log = MeterLog(np.maximum(table[:, 0] - zero, 0.0), tuple(channels), started_at)
        return log, told, segments

    def window(self, start_s: float, end_s: float) -> tuple[float, float]:
        """A stretch of the meter's clock as seconds of the log."""
        zero = self._zero()
        return max(start_s - zero, 0.0), max(end_s - zero, 0.0)

    def _zero(self) -> float:
        first = self._first_s or 0.0
        return first if self.start is None else max(first, self.start.step_s - AROUND_S)

    def _add(self, at: int, sample: Sample) -> None:
        self._last_s = max(self._last_s, sample.at_s)
        self._kept.add(self._last_s, at, np.nan if sample.value is None else sample.value)
        if self._kept.is_full and self.wanted.kind == "trace":
            self.is_over = self.is_full = True

    def _look(self, sample: Sample) -> None:
        if self.wanted.kind == "watch":
            before = self._watch.now
            over = self._watch.take(sample)
            if before is None and self._watch.now is not None:
                self._kept.happened(sample.at_s)
            if over is not None:
                self._note(over)
        elif self.wanted.kind == "start" and self.start is None:
            was_running = self._armed.running
            caught = self._armed.take(sample)
            if self._armed.running and not was_running:
                self._kept.happened(sample.at_s)
            if caught is not None and caught.shows(self.hold) is None:
                self._armed = Armed()  # the load went off: the start is still to come
            elif caught is not None:
                self.start, self.is_over = caught, True

    def _note(self, change: Change) -> None:
        self._kept.happened(change.end_s)
        if len(self.changes) >= MOST_CHANGES:
            self.uncounted += 1
            return
        # What stays away may be a load that was switched off: a person says what it was.
        clear = not change.stays and not change.in_air and change.went_to is not None
        evident = bool(self.moving) and clear
        self.changes.append(Noted(change, self.moving if evident else None))

    def _segments(self) -> tuple[LogSegment, ...]:
        out = [
            LogSegment("change", *self.window(n.change.start_s, n.change.end_s), n.moved or "")
            for n in self.changes
        ]
        if self.wanted.kind == "watch":
            changes = [n.change for n in self.changes]
            spans = quiet(list(self._watch.stretches), changes)
            out += [LogSegment("quiet", *self.window(*span)) for span in spans]
        if self.start is not None:
            out.append(LogSegment("start", *self.window(self.start.step_s, self.start.end_s)))
        return tuple(sorted(out, key=lambda each: each.start_s))
