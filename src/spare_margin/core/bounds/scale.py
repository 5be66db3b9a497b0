"""From the moment to the loaded current: how many times a stretch drops what it dropped when it was read.

A piece that carries I_s in a scenario and carried I in the moment drops I_s / I times as much. Its own load
counts at its full draw there: what the drawing says, or what it was seen to draw where that is more. What
other loads on a shared piece drew in the moment is known to OTHERS_SHARE.
"""

import math
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property

from spare_margin.core.circuit.runs import Step
from spare_margin.core.model.pieces import Scenario

from .drift import Interval
from .moment import ReadStretch, RunMoment

OTHERS_SHARE = 0.2
"""How far (share) what other loads draw in a moment may be off from the drawing."""
Drawn = Callable[[Scenario], Mapping[str, float]]
"""What each load draws (A) in a scenario by the drawing, by its id; 0 where it is off."""


class Others:
    """What other loads draw in a moment (A), by the drawing, known to OTHERS_SHARE.

    Args:
        drawn: what each load draws in the moment's scenario (A), by its id.
    """

    def __init__(self, moment: RunMoment, drawn: Mapping[str, float]) -> None:
        self._moment, self.drawn = moment, drawn
        self._together: dict[frozenset[str], Interval] = {}

    def one(self, key: str) -> Interval:
        """The least and the most that one of them draws.

        Args:
            key: the id of the load.
        """
        amps = self.drawn.get(key, 0.0)
        state = self._moment.conditions.states.get(key)
        least = 0.0 if state == "attempted" else (1 - OTHERS_SHARE) * amps
        return least, (1 + OTHERS_SHARE) * amps

    def together(self, keys: Iterable[str]) -> Interval:
        """The least and the most that some of them draw together.

        Args:
            keys: the ids of the loads.
        """
        asked = frozenset(keys)
        if asked not in self._together:
            each = [self.one(key) for key in asked]
            self._together[asked] = sum(low for low, _ in each), sum(high for _, high in each)
        return self._together[asked]


@dataclass(frozen=True)
class Scale:
    """How a run's stretches grow from a moment to a scenario.

    Attributes:
        then: what each load draws in the scenario by the drawing (A), by its id.
        beside: what other loads draw in the moment.
    """

    moment: RunMoment
    scenario: Scenario
    then: Mapping[str, float]
    beside: Others

    def of(self, stretch: ReadStretch) -> Interval:
        """The least and the most times a stretch drops in the scenario what it dropped in the moment."""
        each = [self._step(step) for step in stretch.steps]
        if not self.moment.bridged.isdisjoint(stretch.pieces):
            # Without the wire beside them they drop no less; how much more, nothing tells.
            return min(low for low, _ in each), math.inf
        return min(low for low, _ in each), max(high for _, high in each)

    def _step(self, step: Step) -> Interval:
        moment, own = self.moment, self.moment.run.load
        read = moment.through(step)
        known = read is None or moment.amperes is not None
        if known and step.group is None and moment.private(step):
            return self._alone
        users = self._users(step)
        others = users - {own.id}
        if known and not others:
            return self._alone
        unknown = [
            key
            for key in others
            if moment.craft.load(key).behaviour is None
            and (key in self.scenario.on or key in moment.conditions.running)
        ]
        if step.group is not None or unknown or own.behaviour is None:
            return self._by_load(users)
        more = sum(self.then.get(key, 0.0) for key in others)
        return self._shared(more, self.beside.together(others), read)

    def _users(self, step: Step) -> set[str]:
        """The loads whose current passes a step, or any way beside it."""
        run, users = self.moment.run, self.moment.users
        beside = [] if step.group is None else [s for s in run.steps() if s.group == step.group]
        others = {key for s in (step, *beside) for key in users.get(s.piece.id, ())}
        return others.difference(run.string) | {run.load.id}

    @cached_property
    def _alone(self) -> Interval:
        """A piece that the load's own current alone passes."""
        return self._own(self.moment.run.load.id)

    def _own(self, own: str) -> Interval:
        """A piece that the load's own current alone passes: (V / I) at its full draw."""
        moment = self.moment
        if moment.run.load.behaviour is None:
            return 1.0, 1.0
        then = self._full(own)
        low, high = self._amperes
        least, most = then / high if high else math.inf, then / low if low else math.inf
        if moment.conditions.stand_in is not None and own not in moment.conditions.running:
            return least, most
        # What it was seen to draw beyond the drawing, it draws in the scenario too.
        now = self.beside.drawn.get(own, 0.0)
        same = then / now if now else math.inf
        return max(least, same), max(most, same)

    @property
    def _amperes(self) -> Interval:
        """The load's current in the moment (A); between nothing and anything where no meter says."""
        return self.moment.amperes or (0.0, math.inf)

    def _full(self, own: str) -> float:
        """What the run's load draws at its full draw in the scenario (A)."""
        return self.then.get(own, 0.0) or (self.moment.rated_a or 0.0)

    def _shared(self, more: float, beside: Interval, read: Interval | None) -> Interval:
        """A piece that other loads load as well: (own full draw + theirs) over what it carried."""
        own = self.moment.run.load.id
        base, (low, high) = self._full(own), self._amperes
        now = self.beside.drawn.get(own, 0.0)
        stood_in = own not in self.moment.conditions.running
        # Its own draw beyond the drawing comes into both: both ends, and where it begins, bound the ratio.
        ends = {low, high} if stood_in or not now else {low, high, min(max(now, low), high)}
        if math.isinf(high):
            ends = {low, now} if now else {low}

        def full(amps: float) -> float:
            return base if stood_in or not now else base * max(amps / now, 1.0)

        if read is not None:
            return (
                (min(map(full, ends)) + more) / read[1],
                (max(map(full, ends)) + more) / read[0] if read[0] else math.inf,
            )
        most = [
            (full(amps) + more) / (amps + beside[0]) if amps + beside[0] else math.inf
            for amps in ends
        ]
        least = [
            (full(amps) + more) / (amps + beside[1]) if amps + beside[1] else math.inf
            for amps in ends
        ]
        if math.isinf(self._amperes[1]) and now:
            least.append(base / now)
        return min(least), max(most)

    def _by_load(self, users: Iterable[str]) -> Interval:
        """Where currents part, or one is not known: no more than the load that grows most, nor less than
        the one that grows least."""
        lows, highs = [], []
        for key in users:
            low, high = self._ratio(key)
            lows.append(low)
            highs.append(high)
        return min(lows), max(highs)

    def _ratio(self, key: str) -> Interval:
        moment = self.moment
        if key == moment.run.load.id:
            return self._own(key)
        was, will = key in moment.conditions.running, key in self.scenario.on
        if moment.craft.load(key).behaviour is None:
            return (1.0 if was and will else 0.0), (math.inf if will and not was else 1.0)
        low, high = self.beside.one(key)
        amps = self.then.get(key, 0.0)
        if not amps:
            return 0.0, 0.0
        return amps / high if high else math.inf, amps / low if low else math.inf
