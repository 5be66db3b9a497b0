"""A start or a crank under leads that stay: what the figure stood at, its dip or peak, where it settles."""

from collections import deque
from dataclasses import dataclass, field

from spare_margin.core.model.jobs import Hold
from spare_margin.core.model.values import Seconds

from .samples import Sample
from .steady import GAP_S, Standing, Steady, sign, swung, tolerance

STEP_TIMES = 2.0
"""A step is so many times what a figure may move by and still stand."""
BEFORE_S: Seconds = 1.0
"""What is kept from before it."""
OFF_SHARE = 0.5
"""Where less than this share of what stood there is left, the load is off."""
LONGEST_S: Seconds = 30.0
"""A start that has not settled by then is kept as it is."""


@dataclass(frozen=True, slots=True)
class Start:
    """A start that was caught.

    Attributes:
        from_s: from when on it is kept (s).
        step_s: when the figure left what it stood at (s).
        end_s: when it had settled (s).
        before: what it stood at (V, A).
        least, most: the ends of what it showed from the step on (V, A).
        settled: what it stands at since; None where it has not settled.
        in_air: whether the figures since the step look like leads that came off.
    """

    from_s: Seconds
    step_s: Seconds
    end_s: Seconds
    before: float
    least: float
    most: float
    settled: float | None
    in_air: bool = False

    def shows(self, hold: Hold) -> bool | None:
        """Whether that end of it is what a start did; None where it was no start, but the load going off.

        Across a load that was off, and comes on, the first figures may still be on their way; what never
        settles may be leads in the air; with the leads swapped least and most are the wrong way round: of
        these no end is believed.

        Args:
            hold: which end is wanted: the most of what is lost, the least of what stands there.
        """
        last = self.least if self.settled is None else self.settled
        grew = max(abs(self.least), abs(self.most)) > abs(self.before)
        if self.in_air or (
            not grew if hold == "most" else abs(last) < OFF_SHARE * abs(self.before)
        ):
            return None
        if self.settled is None:
            return False
        if hold == "most":
            return self.most > abs(self.before) and self.most >= abs(self.least)
        return self.before > 0 and self.before >= OFF_SHARE * abs(last)


@dataclass
class Armed:
    """Waits for one start in a meter's samples, oldest first.

    Attributes:
        before: what the figure stands at before it; None until it stands: then it is armed.
    """

    before: Standing | None = None
    _steady: Steady = field(default_factory=Steady)
    _since: deque[Sample] = field(default_factory=deque)
    _last_s: float | None = None

    @property
    def running(self) -> bool:
        """Whether the start goes on."""
        return len(self._since) > 0

    def take(self, sample: Sample) -> Start | None:
        """Look at one more sample; the start once it has settled.

        Args:
            sample: what the meter shows now.
        """
        if self._last_s is not None and sample.at_s - self._last_s > GAP_S:
            # Where the leads went while the meter was away nobody saw.
            self.before, self._steady = None, Steady()
            self._since.clear()
        self._last_s = sample.at_s
        if sample.value is None:
            return None
        self._steady.take(sample)
        standing = self._steady.standing
        if not self.running:
            if self.before is not None and self._left(sample.value):
                self._since.append(sample)
                self._steady = Steady()
            elif standing is not None:
                self.before = standing
            return None
        self._since.append(sample)
        late = sample.at_s - self._since[0].at_s >= LONGEST_S
        return self._caught(standing, sample) if standing is not None or late else None

    def _left(self, value: float) -> bool:
        if self.before is None:
            return False
        moved = abs(value - self.before.value)
        return moved > STEP_TIMES * tolerance(self.before.value, self.before.last.step)

    def _caught(self, standing: Standing | None, last: Sample) -> Start:
        assert self.before is not None
        values = [s.value for s in self._since if s.value is not None]
        step = self._since[0].at_s
        return Start(
            step - BEFORE_S, step, last.at_s, self.before.value, min(values), max(values),
            None if standing is None else standing.value, swung({sign(s) for s in self._since}),
        )  # fmt: skip
