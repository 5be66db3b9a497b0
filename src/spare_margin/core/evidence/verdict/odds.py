"""The odds of one run, worked out when something asks: what is likely, and what to read next."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

from spare_margin.core.bounds.conclude import Concluded
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import Run
from spare_margin.core.evidence.estimate.search import Search, search
from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.evidence.observation.observations import Observed
from spare_margin.core.evidence.outlook.as_measured import Measured, measured_point
from spare_margin.core.evidence.outlook.probes import Probe, probes
from spare_margin.core.evidence.response.circuits import AS_DRAWN
from spare_margin.core.model.pieces import Craft, Scenario
from spare_margin.core.model.tables import Tables
from spare_margin.core.patience import TooLong, at_most

ODDS_S = 2.0
"""So long (s) the odds may take: a page that shows what they say waits for them."""


@dataclass(frozen=True)
class RunOdds:
    """What is likely of a run by all that was observed; no verdict rests on it.

    `next_in` is the scenario in which will be read next, where nothing was read with the load on.
    """

    craft: Craft
    run: Run
    observed: Observed
    tables: Tables
    concluded: Concluded
    drawn: Callable[[Scenario], float]
    next_in: Scenario | None = None

    @cached_property
    def search(self) -> Search:
        """Every fault weighed by what was observed."""
        return search(self.craft, [self.run], self.observed, self.tables)

    @cached_property
    def in_time(self) -> Search | None:
        """The search, where it is done within ODDS_S; None where it is not: the odds only guide."""
        try:
            with at_most(ODDS_S):
                return self.search
        except TooLong:
            return None

    @cached_property
    def measured(self) -> Measured:
        """The craft with the ohms that were read, its load at its full draw."""
        judged, made = self.concluded.judged, self.concluded.conclusion
        point = AS_DRAWN
        if judged is not None and made.headline != "contradiction":
            opened = [f.piece for f in made.found if f.kind == "open"]
            good = closed_ohms(self.craft, self.tables)
            point = measured_point(judged, good, self._times, opened, self._likeliest)
        return Measured(self.craft, self.tables, self.run, point)

    def _likeliest(self, pieces: Sequence[str]) -> str:
        """Of several pieces that share an excess, the one that most likely has it."""
        if len(pieces) == 1:
            return pieces[0]
        weights = {} if self.in_time is None else self.in_time.by_element
        return max(pieces, key=lambda key: weights.get(key, 0.0))

    @property
    def _times(self) -> float:
        """What the load draws of what is drawn: as metered where that is more, or nothing is drawn."""
        made = self.concluded.conclusion
        if made.amperes is None or made.conditions is None:
            return 1.0
        should = self.drawn(made.conditions.scenario)
        if not should or self.run.load.id not in made.conditions.running:
            return 1.0
        times = sum(made.amperes) / 2 / should
        return max(times, 1e-3) if self.run.load.behaviour is None else max(times, 1.0)

    @cached_property
    def probes(self) -> tuple[Probe, ...]:
        """What to read next, the most telling first, without what was read in the same moment."""
        conditions = self._conditions
        if conditions is None or self.in_time is None:
            return ()
        run = self.run
        order = [*run.line["feed"], *run.line["return"]]
        order = list(dict.fromkeys([*order, run.source.back]))
        points = {p.id: p.access for p in self.craft.points if p.id in order}
        read = {
            frozenset((o.red, o.black))
            for o in self.observed.values
            if o.conditions.key == conditions.key and o.quantity == "volts"
        }
        posts = (run.source.live, run.source.back)
        asked = probes(self.in_time, conditions, points, posts, order)
        return tuple(p for p in asked if frozenset((p.red, p.black)) not in read)

    @property
    def _conditions(self) -> Conditions | None:
        conditions = self.concluded.conclusion.conditions
        if conditions is not None:
            return conditions
        on = (s for s in self.craft.scenarios if self.run.load.id in s.on)
        scenario = self.next_in or next(on, None)
        if scenario is None or self.run.load.id not in scenario.on:
            return None
        return Conditions("next", scenario, None)
