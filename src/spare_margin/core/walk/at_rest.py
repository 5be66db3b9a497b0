"""The sweep at rest: with the load off, source volts stand up to an open contact and nothing beyond.

What is open, the run's conclusion says; here is where each point should stand, and which contacts are
closed that should be open.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from spare_margin.core.circuit.runs import Run
from spare_margin.core.circuit.solution import Solution
from spare_margin.core.model.pieces import Side

Stand = Literal["source", "nothing", "loose", "between"]
NEAR_SOURCE, NEAR_NOTHING = 0.85, 0.1
"""Shares of the source from which a point is at it, and below which there is nothing."""


@dataclass(frozen=True, slots=True)
class Swept:
    """A point of the sweep: where it should stand against the post a lead is parked on, and was read."""

    point: str
    should: Stand
    reads: Stand | None
    volts: float | None


def stand_of(volts: float | None, source_v: float) -> Stand:
    """Where a point stands by its volts against a post; None: it hangs loose.

    Args:
        source_v: what the source was read at (V).

    >>> stand_of(12.4, 12.6), stand_of(0.02, 12.6), stand_of(None, 12.6)
    ('source', 'nothing', 'loose')
    """
    if volts is None:
        return "loose"
    share = abs(volts) / source_v
    return "source" if share >= NEAR_SOURCE else "nothing" if share <= NEAR_NOTHING else "between"


def parked_on(run: Run, side: Side) -> str:
    """The post on which one lead stays: for a feed the return post, for a return the live one.

    Args:
        run: the run.
        side: the side.
    """
    return run.source.back if side == "feed" else run.source.live


def sweep(
    run: Run,
    resting: Solution,
    read: Mapping[str, float | None],
    source_v: float,
    side: Side = "feed",
) -> list[Swept]:
    """The points of a run, as they should stand at rest and as they were read.

    Those of the side from its own post to the load; what stands beyond the load, the load decides.

    Args:
        resting: the solution of the craft with the load off.
        read: volts against the parked lead's post at rest, by point; None where the display wandered.
        source_v: what the source was read at (V).
    """
    parked = parked_on(run, side)
    emf = abs(resting.volts(run.source.live, run.source.back) or source_v)
    out = []
    points = run.line["feed"] if side == "feed" else run.line["return"][::-1]
    for point in points:
        should = stand_of(resting.volts(point, parked), emf)
        volts = read.get(point)
        reads = stand_of(volts, source_v) if point in read else None
        out.append(Swept(point, should, reads, volts))
    return out


def bypassed(points: Sequence[Swept]) -> list[str]:
    """Points that were read at the source's volts though a contact that stands open keeps them from it.

    Of a row of them the first.

    Args:
        points: the points of the run as they were read.
    """
    known = [p for p in points if p.reads in ("source", "nothing", "loose")]
    wrong = [p.reads == "source" and p.should != "source" for p in known]
    return [
        p.point for p, is_so, was in zip(known, wrong, [False, *wrong], strict=False) if is_so > was
    ]
