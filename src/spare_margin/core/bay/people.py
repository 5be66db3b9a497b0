"""People who read a craft: in their own order, with a clamp or without, and with mistakes."""

import random
from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Literal

from spare_margin.core.model.jobs import Quantity, Reading
from spare_margin.core.model.meters import CLAMP_METER, WORKSHOP_METER

from .world import World

Habit = Literal["ground_first", "sides_first", "parked", "pieces_first", "difference", "anything"]
HABITS: tuple[Habit, ...] = (
    "ground_first", "sides_first", "parked", "pieces_first", "difference", "anything"
)  # fmt: skip
Mistake = Literal["", "one_off", "swapped", "thousand", "not_zeroed", "before"]
MISTAKES: tuple[Mistake, ...] = ("one_off", "swapped", "thousand", "not_zeroed", "before")
MISTAKEN_SHARE = 0.15
"""How many of those at work make a mistake: far more than do, so that each kind is met."""
SECONDS = 8.0, 40.0
"""Between two readings."""
AT_FIRST_S = -30.0
"""The source read half a minute before anything is switched on."""
MOST_READINGS = 14
"""More than that nobody takes of one run."""

Asked = tuple[Quantity, str, str]


@dataclass
class Person:
    """Somebody at work on a world.

    `readings` are what was written down so far; `mistakes` the ids of those that are not what was meant.
    """

    world: World
    rng: random.Random
    habit: Habit
    clamp: bool
    mistake: Mistake = ""
    at_s: float = 20.0
    moment: str = "m1"
    readings: list[Reading] = field(default_factory=list)
    mistakes: set[str] = field(default_factory=set)
    instants: dict[str, list[float]] = field(default_factory=dict)

    def read(self, asked: Asked) -> Reading | None:
        """Take one reading; None where the craft cannot be read as it stands.

        Args:
            asked: what to read.
        """
        quantity, red, black = asked
        slips = self.mistake != "" and not self.mistakes and self.rng.random() < 0.35
        at_s, wrong = self.at_s, False
        if slips and quantity == "volts":
            red, black, wrong = self._misplaced(red, black)
            if self.mistake == "before" and {red, black} == set(self._posts):
                at_s, wrong = AT_FIRST_S, True
        value = self._true(quantity, red, black, at_s)
        if value is None:
            return None
        if slips and quantity == "amperes" and self.mistake == "not_zeroed":
            value, wrong = value + self.rng.uniform(0.4, 2.0), True
        meter = CLAMP_METER if quantity == "amperes" else WORKSHOP_METER
        step = meter.resolution(value)
        limit = meter.accuracy(round(value / step) * step)
        shown = round((value + self.rng.uniform(-0.9, 0.9) * (limit - step / 2)) / step) * step
        if slips and self.mistake == "thousand" and 0.02 < abs(shown) < 0.6:
            shown, wrong = shown * 1000, True
        key = f"r{len(self.readings):03d}"
        if wrong:
            self.mistakes.add(key)
        made = Reading(
            id=key, revision="r", quantity=quantity, red=asked[1], black=asked[2], value=shown,
            state="value", typed=str(shown), accuracy=meter.accuracy(shown),
            scenario=self.world.scenario(self.moment).id, taken_at="", moment=self.moment,
            meter=meter.name,
        )  # fmt: skip
        self.readings.append(made)
        self.instants.setdefault(self.moment, []).append(at_s)
        self.at_s += self.rng.uniform(*SECONDS)
        return made

    @property
    def _posts(self) -> tuple[str, str]:
        return self.world.run.source.live, self.world.run.source.back

    def _misplaced(self, red: str, black: str) -> tuple[str, str, bool]:
        if self.mistake == "swapped":
            return black, red, True
        if self.mistake == "one_off":
            order = [*self.world.run.line["feed"], *self.world.run.line["return"]]
            if red in order:
                beside = order[min(order.index(red) + 1, len(order) - 1)]
                if beside not in (red, black):
                    return beside, black, True
        return red, black, False

    def _true(self, quantity: Quantity, red: str, black: str, at_s: float) -> float | None:
        solved = self.world.solved(self.moment, at_s)
        if solved is None:
            return None
        if quantity == "amperes":
            return abs(solved.solution.elements[self.world.run.load.id].current_a)
        return solved.solution.volts(red, black)

    # In which order

    def order(self) -> Iterator[Asked]:
        """What this person reads of the run, one after the other, in one moment."""
        run = self.world.run
        source: Asked = ("volts", *self._posts)
        load: Asked = ("volts", run.feed_terminal, run.return_terminal)
        feed: Asked = ("volts", *run.ends("feed"))
        back: Asked = ("volts", *run.ends("return"))
        amps: list[Asked] = [("amperes", run.feed_terminal, run.return_terminal)]
        amps = amps if self.clamp else []
        match self.habit:
            case "ground_first":
                each = [back, source, *amps, load, *self._pieces("return"), feed]
            case "sides_first":
                each = [*amps, feed, back, source, load]
            case "parked":
                points = [*self.world.run.line["feed"], *self.world.run.line["return"]]
                each = [*amps, *(("volts", p, run.source.back) for p in points)]
            case "pieces_first":
                each = [*self._pieces("feed"), *self._pieces("return"), *amps, source, load]
            case "difference":
                each = [source, load, *amps, feed]
            case _:
                points = [*self.world.run.line["feed"], *self.world.run.line["return"]]
                each = [*amps]
                while len(each) < MOST_READINGS - 2:
                    red, black = self.rng.sample(points, 2)
                    each.append(("volts", red, black))
                self.rng.shuffle(each)
        yield from (e for e in each[:MOST_READINGS] if e[1] != e[2])

    def _pieces(self, side: Literal["feed", "return"]) -> list[Asked]:
        return [("volts", a, b) for a, b in pairwise(self.world.run.line[side])]


def person(rng: random.Random, world: World) -> Person:
    """Somebody with habits, a clamp or none, and now and then a mistake.

    Args:
        rng: where chance comes from: the same seed makes the same.
        world: what there is to read.
    """
    mistake = rng.choice(MISTAKES) if rng.random() < MISTAKEN_SHARE else ""
    return Person(world, rng, rng.choice(HABITS), rng.random() < 0.8, mistake)
