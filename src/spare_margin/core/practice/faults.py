"""What is wrong in an exercise, by what its level asks for."""

import math
import random
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from .exercise import Exercise, Hidden, Level, When
from .stories import Story
from .wirings import Wired

FAULT_SHARE = 0.08, 0.3
"""A fault takes such a share of the nominal voltage at what the load draws."""
WEAK_SOURCE_SHARE = 0.12, 0.2
"""A weak source sags by such a share of the nominal voltage more than it should."""
LITTLE = 0.45
"""A load that has half burned out draws this share of what it should."""


def hidden_in(made: Exercise, held: Wired, story: Story, rng: random.Random) -> tuple[Hidden, ...]:
    """Something wrong in a wiring, or nothing.

    Args:
        made: the exercise, sound so far.
        held: its wiring.
        story: whose craft it is.
        rng: where chance comes from: the same seed makes the same.
    """
    return _WRONG[made.level](_Wrong(made, held, story, rng))


@dataclass
class _Wrong:
    """What may be made wrong in one wiring."""

    made: Exercise
    held: Wired
    story: Story
    rng: random.Random

    def pieces(self, *kinds: str) -> list[str]:
        """Pieces of the run; only of some kinds where any are named."""
        steps = self.made.loop.steps()
        return [s.piece.id for s in steps if not kinds or s.piece.kind in kinds]

    def ohm(self) -> float:
        """What takes a fault's share of the volts, at what flows."""
        low, high = FAULT_SHARE
        if self.story.duty == "charging":
            low, high = low / 3, high / 3
        volts = self.story.nominal_v * low * math.pow(high / low, self.rng.random())
        return round(volts / self.story.amperes, 5)

    def one(self, *kinds: str, when: When = "always") -> tuple[Hidden, ...]:
        """One piece that takes too much."""
        return (Hidden(self.rng.choice(self.pieces(*kinds)), self.ohm(), when),)

    def several(self, count: int) -> tuple[Hidden, ...]:
        """So many pieces that take too much."""
        return tuple(Hidden(p, self.ohm()) for p in self.rng.sample(self.pieces(), count))

    def gap(self, *kinds: str) -> tuple[Hidden, ...]:
        """One piece that is open."""
        return (Hidden(self.rng.choice(self.pieces(*kinds)), math.inf),)

    def trunk(self) -> tuple[Hidden, ...]:
        """A piece of what is shared takes too much, at what all of them draw."""
        runs = self.made.runs.values()
        users = Counter(step.piece.id for run in runs for step in run.steps())
        shared = [p for p in self.pieces() if users[p] > 1]
        ohm = self.ohm() * self.story.amperes / self.made.every_a
        return (Hidden(self.rng.choice(shared), round(ohm, 5)),)

    def coil(self) -> tuple[Hidden, ...]:
        """What feeds the relay's coil is open."""
        (coil,) = self.held.relays.values()
        own = {s.piece.id for s in self.made.runs[coil].steps()} - set(self.pieces())
        return (Hidden(self.rng.choice(sorted(own)), math.inf),)

    def source(self) -> tuple[Hidden, ...]:
        """A battery that sags."""
        volts = self.story.nominal_v * self.rng.uniform(*WEAK_SOURCE_SHARE)
        return (Hidden(self.made.loop.source.id, round(volts / self.made.every_a, 5)),)

    def load(self) -> tuple[Hidden, ...]:
        """A load that has half burned out."""
        return (Hidden(self.made.run, times=LITTLE),)


def _first(w: _Wrong) -> tuple[Hidden, ...]:
    return w.gap("joint", "fuse", "switch") if w.rng.random() < 0.2 else w.one()


def _second(w: _Wrong) -> tuple[Hidden, ...]:
    return w.gap("joint", "conductor", "switch") if w.rng.random() < 0.15 else w.one()


def _third(w: _Wrong) -> tuple[Hidden, ...]:
    return w.trunk() if w.rng.random() < 0.6 else w.one()


def _fourth(w: _Wrong) -> tuple[Hidden, ...]:
    return w.coil() if w.rng.random() < 0.4 else w.one("relay_contact", "joint")


def _sixth(w: _Wrong) -> tuple[Hidden, ...]:
    return w.gap() if w.rng.random() < 0.3 else w.one()


def _seventh(w: _Wrong) -> tuple[Hidden, ...]:
    match w.rng.randrange(7):
        case 0:
            return w.one("joint", "switch", when="moved")
        case 1:
            return w.one("joint", "switch", "fuse", when="warm")
        case 2:
            return w.several(2)
        case 3:
            return w.several(3)
        case 4:
            return w.source()
        case 5:
            return w.load()
        case _:
            return ()


def _fifth(w: _Wrong) -> tuple[Hidden, ...]:
    return w.one()


_WRONG: Mapping[Level, Callable[[_Wrong], tuple[Hidden, ...]]] = {
    1: _first, 2: _second, 3: _third, 4: _fourth, 5: _fifth, 6: _sixth, 7: _seventh,
}  # fmt: skip
