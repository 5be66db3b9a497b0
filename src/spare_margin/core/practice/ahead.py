"""What the meter and the clamp would show next, as the craft stands: for a device that has no network.

It is looked up there, never worked out: each figure is what the same act gives when it is played here.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from itertools import permutations

from .acts import Act
from .bench import Bench, Shown, shown_volts
from .measuring import clamped
from .played import Played, luck_of

STEPS = 8
"""So many acts are known ahead."""
MEANWHILE = Act(kind="volts")


@dataclass(frozen=True)
class Ahead:
    """What one act, so many acts ahead, would show: volts by red and black, amperes by what is clamped."""

    volts: Mapping[tuple[str, str], Shown]
    amperes: Mapping[str, Shown]


def ahead(at: Played) -> Iterator[Ahead]:
    """What each of the next acts would show, if it is one of the meter or the clamp.

    Args:
        at: the exercise as far as it was played.
    """
    craft, bench = at.exercise.craft, Bench(at.exercise, at.state)
    points = [p.id for p in craft.points]
    for step in range(STEPS):
        # What was measured meanwhile counts by its number alone.
        then = replace(at, acts=(*at.acts, *(MEANWHILE,) * step), since=at.since + step)
        solved = bench.solved(then.at_s)
        yield Ahead(
            {
                (red, black): shown_volts(bench.volts(solved, red, black), None, luck_of(then))
                for red, black in permutations(points, 2)
            },
            {
                e.id: clamped(then, bench.amperes(solved, e.id))
                for e in (*craft.loads, *craft.pieces)
            },
        )
