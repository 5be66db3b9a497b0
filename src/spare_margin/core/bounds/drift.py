"""How far the source may have moved between readings, and so what each reading may stand for."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property

from spare_margin.core.circuit.runs import Run
from spare_margin.core.evidence.observation.observations import TOP_SHARE, Observation
from spare_margin.core.measure.staleness import NOT_SAID

FALLS_SHARE, RISES_SHARE = 0.05, 0.01
"""A source may have moved by so much of the nominal voltage since it was read, down and up, until two
readings of it agree: a battery fresh off the charger does, in a minute."""
SETTLED_SHARE = 0.005
"""And by so much where two readings of it agree."""
AGE_S = 1800.0
"""A reading against the source that is older than this bounds nothing."""
CROSSES_SHARE = 0.1
"""A reading above this share of the nominal voltage follows the source."""

Interval = tuple[float, float]


@dataclass(frozen=True)
class Drift:
    """The readings of one moment of a run, in their order, and the source they were taken on.

    Attributes:
        clamped: places of the readings of the load's own current.
        settled: whether the source is taken to have stood still, whatever was read of it.
    """

    run: Run
    nominal_v: float
    readings: Sequence[Observation]
    clamped: frozenset[int]
    settled: bool = False

    def intervals(self) -> Sequence[tuple[Observation, float, float]]:
        """Each reading with the least and the most it may stand for, the source having moved meanwhile."""
        read = {place: o for place, o in enumerate(self.readings) if o.quantity == "volts"}
        crossing = {place: _time(o) for place, o in read.items() if self._crosses(o)}
        last = max(crossing, default=None)
        latest = max((at for at in crossing.values() if at is not None), default=None)
        stands = [o for o in read.values() if o.beside]
        posts = [abs(o.value) for o in read.values() if {o.red, o.black} == self._posts]
        top = max(posts, default=TOP_SHARE * self.nominal_v)
        out = []
        for place, o in read.items():
            down, up = self._moved(place)
            share = down / self.nominal_v
            if place not in crossing:
                # With the source what flows moves, and with it every drop, to and fro.
                doubt = o.limit + share * abs(o.value)
                out.append((o, o.value - doubt, o.value + doubt))
                continue
            at = crossing[place]
            if at is not None and latest is not None and latest - at > AGE_S:
                continue
            if o.sag is not None and stands:
                out.append(self._beside(o, stands))
                continue
            size = abs(o.value)
            # What is lost beside it moves with the current, as every drop does.
            lost = share * max(top - size, 0.0)
            if place == last:
                down = up = lost = 0.0
            low, high = size - o.limit - down - lost, size + o.limit + up + lost
            out.append((o, low, high) if o.value > 0 else (o, -high, -low))
        return out

    def _beside(
        self, o: Observation, stands: Sequence[Observation]
    ) -> tuple[Observation, float, float]:
        """A reading with the source of its instant, as it would be with the source as last read so."""
        last = stands[-1]
        own = next((s for s in stands if s.sag == o.sag), last)
        times = last.value / own.value
        doubt = o.limit * times
        if own is not last:
            doubt += abs(o.value) * (own.limit + last.limit) / own.value
        return o, o.value * times - doubt, o.value * times + doubt

    def _crosses(self, o: Observation) -> bool:
        """Whether what a reading shows follows the source: it spans the load, and is no small part."""
        large = abs(o.value) > CROSSES_SHARE * self.nominal_v
        return large and self.run.between(o.red, o.black) is None

    def _moved(self, place: int) -> Interval:
        """How far (V) the source may have come down and up since a reading, or since the clamp."""
        since = self.steady_since
        if since is not None and min([place, *self.clamped]) >= since:
            return SETTLED_SHARE * self.nominal_v, SETTLED_SHARE * self.nominal_v
        return FALLS_SHARE * self.nominal_v, RISES_SHARE * self.nominal_v

    @cached_property
    def _posts(self) -> set[str]:
        return {self.run.source.live, self.run.source.back}

    @cached_property
    def steady_since(self) -> int | None:
        """Which reading the source stood still from: the first of it, where all of it agree; None: it is
        not known to."""
        if self.settled:
            return 0
        read = [
            o for o in self.readings
            if o.quantity == "volts" and {o.red, o.black} == self._posts and not o.beside
        ]  # fmt: skip
        values = [abs(o.value) for o in read]
        if len(read) < 2 or max(values) - min(values) > SETTLED_SHARE * self.nominal_v:
            return None
        return self.readings.index(read[0])


def _time(o: Observation) -> float | None:
    if o.taken_at < NOT_SAID:
        return None
    try:
        found = datetime.fromisoformat(o.taken_at.replace("Z", "+00:00")).timestamp()
    except ValueError:
        return None
    return found if math.isfinite(found) else None
