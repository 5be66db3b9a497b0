"""An exercise as far as it was played: what was done, what it showed, the readings that came of it.

Playing is a function of the exercise and the acts: the same acts give the same figures, on any device.
"""

import random
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Literal

from spare_margin.core.model.jobs import Moment, Outcome, Reading, ReadingState, Trial

from .acts import Act
from .bench import Bench, Looks, State
from .exercise import Exercise

COLD: frozenset[Looks] = frozenset({"off", "unplugged", "still"})
"""A load that is so does not warm what feeds it."""
WARM_MIN = 8.0
"""After so many minutes on what grows warm has grown warm."""
FIRST_S, EACH_S = 5.0, 45.0
"""So long after switching on is the first act, and so long after it each other."""
Danger = Literal["cautions", "ohms_live", "switched_off_loaded", "fuse_bridged", "short", "held_on"]
"""The cautions were passed over; ohms on a live craft; the source taken off under load; a fuse or breaker
bridged; the source shorted by a spare wire; a short-time load held on."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What an act showed.

    `shown` are the figures of the meter (V, A or ohm): one, or least and most; empty where it showed none,
    and then `state` says why, or how a lamp burned. `outcome` is what came of joining something.
    """

    minutes: float
    price: float = 0.0
    shown: tuple[float, ...] = ()
    accuracy: float = 0.0
    state: ReadingState = "value"
    outcome: Outcome | None = None
    danger: Danger | None = None


@dataclass(frozen=True, kw_only=True)
class Played:
    """What came of the acts so far.

    Attributes:
        told: what each showed.
        repairs: how often something was put right: readings are of the wiring since then.
        red, black: what the leads lie on.
        opened: the points whose trim is off.
    """

    exercise: Exercise
    acts: tuple[Act, ...] = ()
    told: tuple[Told, ...] = ()
    state: State = field(default_factory=State)
    readings: tuple[Reading, ...] = ()
    moments: tuple[Moment, ...] = ()
    trials: tuple[Trial, ...] = ()
    repairs: int = 0
    red: str = ""
    black: str = ""
    opened: frozenset[str] = frozenset()
    zeroed: bool = False
    noted: bool = False
    on_min: float = 0.0
    since: int = 0
    fresh: bool = True
    ended: bool = False

    @property
    def minutes(self) -> float:
        """All minutes so far."""
        return sum(t.minutes for t in self.told)

    @property
    def price(self) -> float:
        """All parts so far."""
        return sum(t.price for t in self.told)

    @property
    def at_s(self) -> float:
        """Seconds since something was switched last."""
        return FIRST_S + EACH_S * self.since

    @property
    def looks(self) -> Mapping[str, Looks]:
        """What is seen of each load now."""
        return Bench(self.exercise, self.state).looks(self.at_s)

    @property
    def pulled_in(self) -> set[str]:
        """The coils whose relay has pulled in now."""
        return Bench(self.exercise, self.state).pulled_in(self.at_s)

    @property
    def current(self) -> tuple[Reading, ...]:
        """The readings that tell of the wiring as it is now."""
        return tuple(r for r in self.readings if r.revision == f"r{self.repairs}")

    @property
    def truly_well(self) -> bool:
        """Whether nothing is wrong any more."""
        return {h.element for h in self.exercise.hidden} <= self.state.mended


def luck_of(at: Played) -> random.Random:
    """Where the chance of the next act comes from.

    Args:
        at: the exercise as far as it was played.
    """
    return random.Random(f"{at.exercise.seed} {len(at.acts)}")


def read(at: Played, told: Told, *readings: Reading) -> Played:
    """Readings, each in the moment that holds now.

    Args:
        at: the exercise as far as it was played.
        told: the debrief.
    """
    at = in_moment(at)
    moment = at.moments[-1]
    made = tuple(replace(r, moment=moment.id, scenario=moment.scenario) for r in readings)
    return replace(at, readings=(*at.readings, *made), told=(*at.told, told))


def in_moment(at: Played, starting: frozenset[str] = frozenset()) -> Played:
    """The moment that readings are of: a new one where something was changed since the last.

    Args:
        at: the exercise as far as it was played.
        starting: the ids of loads that start.
    """
    if not at.fresh:
        return at
    bench, craft = Bench(at.exercise, at.state), at.exercise.craft
    scenario = at.state.scenario(craft)
    loads = bench.commanded(at.at_s, starting)
    contacts = dict(at.state.contacts)
    moment = Moment(
        id=f"m{len(at.moments):03d}", scenario=scenario.id, loads=loads, contacts=contacts,
        warm_min=round(min(at.on_min, 60.0), 1), stand_in=at.state.stand_in,
        note=f"{len(at.moments)}",
    )  # fmt: skip
    return replace(at, moments=(*at.moments, moment), fresh=False)


def only(at: Played, told: Told) -> Played:
    """An act that showed this and gives no reading.

    Args:
        at: the exercise as far as it was played.
        told: what it showed.
    """
    return replace(at, told=(*at.told, told))


def switched(at: Played, state: State, told: Told) -> Played:
    """Another state: what is read from now on is of another moment; what gets no volts any more grows cold.

    Args:
        at: the exercise as far as it was played.
        state: what is commanded now.
        told: what the act showed.
    """
    at = replace(only(at, told), state=state, fresh=True, since=0)
    if at.looks[at.exercise.run] in COLD:
        at = replace(at, on_min=0.0, state=replace(state, warm=False))
    return at
