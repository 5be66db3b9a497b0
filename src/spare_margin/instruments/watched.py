"""A meter watched by a thread of its own: opened, read, closed, and opened again once it is back.

Nothing else ever waits for a meter. What it showed is kept for a while, and told to whoever listens.
"""

import logging
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from threading import Condition, Event, Thread
from typing import Literal

from spare_margin.core.live.samples import Sample
from spare_margin.core.live.steady import Hands, Standing, Steady

from .link import Link, LinkTrouble, Wrong

LOG = logging.getLogger(__name__)
KEPT = 4096
"""Samples that are kept: some minutes of them."""
MOST_A_SECOND = 50
"""Samples that are told of; more than that no eye and no rule needs."""
WAIT_S = (0.3, 1.0, 2.0)
"""How long it waits before it tries a meter again: the first time, the next, and from then on."""

State = Literal["opening", "live", "gone", "wrong_mode", "over_range"]


@dataclass(frozen=True, slots=True)
class Shown:
    """What a watched meter shows, or why it shows nothing.

    Attributes:
        number: counts up with everything that is told of a meter.
        state: whether it is read; `wrong` says why not.
        who: what it says of itself.
        sample: what it shows; None while it is not read.
        taken_at: when that was (UTC, ISO 8601).
        hands: what the hands seem to do.
        standing: what stands still now.
        offered: whether that is to be taken by itself, now and once.
        seen: what came instead of a figure.
    """

    number: int
    state: State
    who: str = ""
    wrong: Wrong | None = None
    seen: str = ""
    sample: Sample | None = None
    taken_at: str = ""
    hands: Hands = "waiting"
    standing: Standing | None = None
    offered: bool = False


@dataclass
class WatchedMeter:
    """Reads one meter in a thread of its own between `start` and `stop`.

    `link_of` makes the way to it anew for each try, `tell` is called in that thread with everything shown.
    """

    link_of: Callable[[], Link]
    tell: Callable[[Shown], None] = lambda _: None
    clock: Callable[[], float] = time.monotonic
    shown: Shown = Shown(0, "opening")
    _kept: deque[tuple[str, Sample]] = field(default_factory=lambda: deque(maxlen=KEPT))
    _steady: Steady = field(default_factory=Steady)
    _changed: Condition = field(default_factory=Condition)
    _stop: Event = field(default_factory=Event)
    _thread: Thread | None = None

    def start(self) -> None:
        """Begin to watch."""
        self._thread = Thread(target=self._watch, daemon=True, name="meter")
        self._thread.start()

    def stop(self, wait_s: float = 3.0) -> None:
        """Leave the meter; its thread ends by itself, and is waited for so long."""
        self._stop.set()
        if self._thread is not None:
            self._thread.join(wait_s)

    def press(self) -> Standing | None:
        """Take what stands still now; None where nothing does."""
        with self._changed:
            return self._steady.took()

    def trace(self, from_s: float, to_s: float) -> list[Sample]:
        """What was shown between two moments of the meter's clock (s)."""
        with self._changed:
            return [s for _, s in self._kept if from_s <= s.at_s <= to_s]

    def lately(self, seconds: float) -> list[tuple[str, Sample]]:
        """What was shown in the last seconds, each with when (UTC)."""
        with self._changed:
            since = self._kept[-1][1].at_s - seconds if self._kept else 0.0
            return [(at, s) for at, s in self._kept if s.at_s >= since]

    def wait(self, past: int, timeout_s: float) -> Shown:
        """What is shown once it is another than number `past`, or when the time is up."""
        with self._changed:
            self._changed.wait_for(lambda: self.shown.number > past, timeout_s)
            return self.shown

    def _watch(self) -> None:
        tries = 0
        while not self._stop.is_set():
            link = self.link_of()
            try:
                who = link.open()
                tries = 0
                self._show(Shown(0, "live", who))
                self._read_on(link, who)
            except LinkTrouble as trouble:
                self._gone(trouble.wrong, trouble.seen)
            except Exception:
                # Whatever a driver comes apart on, the meter is tried again.
                LOG.exception("a meter could not be read")
                self._gone("garbled", "")
            finally:
                link.close()
            self._stop.wait(WAIT_S[min(tries, len(WAIT_S) - 1)])
            tries += 1

    def _gone(self, wrong: Wrong, seen: str) -> None:
        self._steady.interrupted()
        self._show(Shown(0, "gone", self.shown.who, wrong, seen))

    def _read_on(self, link: Link, who: str) -> None:
        """Tell of samples until the meter is gone or left."""
        garbled = 0
        while not self._stop.is_set():
            began = self.clock()
            try:
                sample = link.read()
                garbled = 0
            except LinkTrouble as trouble:
                # One answer without a figure is a slip of the line; several are another kind of thing.
                garbled += trouble.wrong == "garbled"
                if trouble.wrong != "garbled" or garbled > 3:
                    raise
                continue
            self._heard(sample, who)
            self._stop.wait(max(0.0, 1 / MOST_A_SECOND - (self.clock() - began)))

    def _heard(self, sample: Sample, who: str) -> None:
        now = datetime.now(UTC).isoformat(timespec="milliseconds").replace("+00:00", "Z")
        with self._changed:
            self._kept.append((now, sample))
            offered = self._steady.take(sample)
            state: State = "live"
            if sample.mode == "ac":
                state, offered = "wrong_mode", None
            elif sample.value is None:
                state = "over_range"
            steady = self._steady
        self._show(
            Shown(0, state, who, None, "", sample, now, steady.hands, steady.standing, offered is not None)
        )  # fmt: skip

    def _show(self, shown: Shown) -> None:
        with self._changed:
            self.shown = replace(shown, number=self.shown.number + 1)
            self._changed.notify_all()
        self.tell(self.shown)
