"""What the load of a run draws in the moment that is judged, and whether any current is proven."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from spare_margin.core.circuit.loads import UNKNOWN_A
from spare_margin.core.circuit.runs import Run
from spare_margin.core.evidence.estimate.search import Search
from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.evidence.outlook.outlook import in_moment
from spare_margin.core.evidence.outlook.trends import Span
from spare_margin.core.evidence.response.responses import Row

from .judgement import DOUBT, PASSED

STAND_IN_DOUBT = 0.03
"""How far (share) what a stand-in load draws may be off."""
FLOWS_SHARE = 0.05
"""Below this share of what a load draws, nothing flows."""


@dataclass(frozen=True, slots=True)
class LoadCurrent:
    """The current of a run's load.

    Attributes:
        conditions: those that are judged: the last in which it was commanded on and read.
        amps: what it draws there with its doubt (A); None where nothing says.
        flows: whether current is proven; None where nothing says.
        drawn_a: what the drawing has it draw at the volts it gets there (A).
        times: what it draws of that for the budget: as measured where it is more, or where nobody knows.
    """

    conditions: Conditions | None
    amps: tuple[float, float] | None
    flows: bool | None
    drawn_a: float
    times: float


def load_current(
    search: Search, run: Run, loaded_in: Sequence[Conditions], spans: Sequence[Span]
) -> LoadCurrent:
    """The current of a run's load by all that was observed; `loaded_in` are conditions it is on in."""
    conditions = _judged(search, run, loaded_in)
    if conditions is None:
        return LoadCurrent(None, None, False if search.observed.values else None, 0.0, 1.0)
    if conditions.stand_in is not None and run.load.id not in conditions.running:
        return _stood_in(run, conditions)
    return _Reader(search, run, conditions, spans).read()


def _stood_in(run: Run, conditions: Conditions) -> LoadCurrent:
    """The current of a load that stands in is known; the run is judged for its own load all the same."""
    assert conditions.stand_in is not None
    amps = conditions.stand_in.amperes
    unknown = run.load.behaviour is None
    return LoadCurrent(
        conditions, (amps, STAND_IN_DOUBT * amps), True, amps, amps / UNKNOWN_A if unknown else 1.0
    )


def _judged(search: Search, run: Run, loaded_in: Sequence[Conditions]) -> Conditions | None:
    own = {p for s in run.steps() for p in (s.entry, s.exit)}
    read = [
        o.conditions
        for o in reversed(search.observed.values)
        if o.conditions in loaded_in and {o.red, o.black} & own
    ]
    # What the load itself drew says more than what stood in for it.
    for conditions in (*(c for c in read if c.stand_in is None), *read):
        return conditions
    return loaded_in[-1] if loaded_in else None


class _Reader:
    def __init__(
        self, search: Search, run: Run, conditions: Conditions, spans: Sequence[Span]
    ) -> None:
        self.search, self.run, self.conditions, self.spans = search, run, conditions, spans
        self.circuit = search.circuits[conditions.key]
        ids = [x.id for x in self.circuit.layout.loads]
        self.place = ids.index(run.load.id) if run.load.id in ids else None
        rows: list[Row] = [
            ("amperes", run.load.id, ""), ("volts", run.feed_terminal, run.return_terminal)
        ]  # fmt: skip
        self.outlook = in_moment(search, conditions, rows)
        self.here = [o for o in search.observed.values if o.conditions.key == conditions.key]

    def read(self) -> LoadCurrent:
        amps, flows = self._current()
        share = self._share_of_volts()
        drawn = self._nominal() * share
        return LoadCurrent(self.conditions, amps, flows, drawn, self._times(amps, share))

    def _current(self) -> tuple[tuple[float, float] | None, bool | None]:
        load = self.run.load
        outlook = self.outlook
        mean, sigma = outlook.figure(0)
        nominal = self._nominal()
        seen = [o for o in self.here if o.quantity == "amperes"]
        clamped = [o for o in seen if o.through == load.id]
        if clamped:
            last = clamped[-1]
            if abs(last.value) <= max(3 * last.sigma, FLOWS_SHARE / 2 * nominal):
                return (abs(last.value), DOUBT * last.sigma), False
        sigmas = np.maximum(outlook.sigmas[:, 0], 1e-9)
        flows = 1 - ndtr((FLOWS_SHARE * nominal - outlook.means[:, 0]) / sigmas)
        probable = float(outlook.fair @ flows)
        evident = bool(seen) or self._dropped() or self._lost()
        amps = abs(mean), DOUBT * sigma
        if probable < PASSED:
            return amps, False
        if probable > 1 - 2 * PASSED and evident:
            return amps, True
        return (amps if evident else None), None

    def _dropped(self) -> bool:
        """Whether a span of a side shows volts: only current drops them there."""
        return any(abs(s.volts) > 3 * s.sigma and s.side is not None for s in self.spans)

    def _lost(self) -> bool:
        """Whether clearly less reaches the load than the source has: only current loses volts."""
        of = {
            frozenset((o.red, o.black)): o
            for o in self.here
            if o.quantity == "volts" and not o.beside
        }
        source = of.get(frozenset((self.run.source.live, self.run.source.back)))
        load = of.get(frozenset((self.run.feed_terminal, self.run.return_terminal)))
        if source is None or load is None:
            return False
        gain = self.search.observed.gains.get(source.meter, 0.0)
        lost = abs(source.value) - abs(load.value)
        doubt = np.hypot(source.sigma, load.sigma) + gain * abs(lost)
        return bool(lost > 3 * doubt and abs(load.value) > FLOWS_SHARE * abs(source.value))

    def _nominal(self) -> float:
        """What the load draws as drawn, without any fault (A)."""
        if self.place is None:
            return 0.0
        return abs(float(self.circuit.laws.current(self.circuit.across_now)[self.place]))

    def _share_of_volts(self) -> float:
        """What the load's own law lets it draw at the volts it gets, of what it draws as drawn."""
        nominal = self._nominal()
        if self.place is None or not nominal:
            return 1.0
        got, _ = self.outlook.figure(1)
        volts = self.circuit.across_now.copy()
        volts[self.place] = abs(got)
        return abs(float(self.circuit.laws.current(volts)[self.place])) / nominal

    def _times(self, amps: tuple[float, float] | None, share: float) -> float:
        nominal = self._nominal()
        if amps is None or not nominal:
            return 1.0
        if self.run.load.behaviour is None:
            point = self.search.points.get(self.conditions.key)
            aimed = point.load_times.get(self.run.load.id, 1.0) if point else 1.0
            return max(amps[0] / nominal, 1e-3) * aimed
        return max(amps[0] / max(nominal * share, 1e-9), 1.0) if share > 0.5 else 1.0
