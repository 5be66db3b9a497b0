"""The sweep at rest: with the load off, source volts stand up to an open contact and nothing beyond.

It finds opens, and contacts that stand where they should not. A contact that is open on purpose is none.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from spare_margin.core.circuit.runs import Run
from spare_margin.core.circuit.solution import Solution

Stand = Literal["source", "nothing", "loose", "between"]
NEAR_SOURCE, NEAR_NOTHING = 0.85, 0.1
"""Shares of the source from which a point is at it, and below which there is nothing."""


@dataclass(frozen=True, slots=True)
class Swept:
    """A point of the sweep: where it should stand against the return post, and where it was read."""

    point: str
    should: Stand
    reads: Stand | None
    volts: float | None


@dataclass(frozen=True, slots=True)
class Break:
    """Where the sweep comes out otherwise than it should.

    `open`: source before `start`, nothing from `end` on, though nothing is open there on purpose. `closed`:
    source at `end`, which an open contact should keep it from.
    """

    kind: Literal["open", "closed"]
    start: str
    end: str


def stand_of(volts: float | None, source_v: float) -> Stand:
    """Where a point stands by its volts against the return post; None: it hangs loose.

    >>> stand_of(12.4, 12.6), stand_of(0.02, 12.6), stand_of(None, 12.6)
    ('source', 'nothing', 'loose')
    """
    if volts is None:
        return "loose"
    share = abs(volts) / source_v
    return "source" if share >= NEAR_SOURCE else "nothing" if share <= NEAR_NOTHING else "between"


def sweep(
    run: Run, resting: Solution, read: Mapping[str, float | None], source_v: float
) -> list[Swept]:
    """The points of a run in the current's order, as they should stand at rest and as they were read.

    Args:
        resting: the solution of the craft with the load off.
        read: volts against the return post at rest, by point; None where the display wandered.
    """
    back = run.source.back
    emf = abs(resting.volts(run.source.live, back) or source_v)
    out = []
    for point in _points(run):
        if point == back:
            continue
        should = stand_of(resting.volts(point, back), emf)
        volts = read.get(point)
        reads = stand_of(volts, source_v) if point in read else None
        out.append(Swept(point, should, reads, volts))
    return out


def _points(run: Run) -> list[str]:
    return list(dict.fromkeys([*run.line["feed"], *run.line["return"]]))


def breaks(points: Sequence[Swept]) -> list[Break]:
    """Where what was read departs from what should stand, between neighbouring points that were read."""
    out = []
    known = [p for p in points if p.reads in ("source", "nothing", "loose")]
    for one, other in pairwise(known):
        was, now = _live(one.should), _live(other.should)
        reads, then = _live(one.reads), _live(other.reads)
        if reads and not then and was and now:
            out.append(Break("open", one.point, other.point))
        if then and not now:
            out.append(Break("closed", one.point, other.point))
    return out


def _live(stand: Stand | None) -> bool:
    return stand == "source"
