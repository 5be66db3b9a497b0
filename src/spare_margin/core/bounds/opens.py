"""An open: source volts on one side of a piece that is commanded closed, none beyond it.

It lies between the last point that stands at the one pole and the first that stands at the other. A contact
that is commanded open, or that keeps the load off without anybody saying which, is none.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from spare_margin.core.circuit.runs import Step
from spare_margin.core.model.pieces import CONTACTS, SIDES, Side, kind_of

from .moment import Moment


@dataclass(frozen=True, slots=True)
class Open:
    """Where a run is open: between two points of a side, and the pieces that lie there."""

    side: Side
    start: str
    end: str
    pieces: tuple[str, ...]
    readings: tuple[str, ...]


def opened(moment: Moment) -> Open | None:
    """Where the run is open in a moment; None where nothing shows that it is.

    With the load on, current that is proven none, or no volts across the load, is asked for too: else a
    piece of many ohms would be taken for an open one.
    """
    if moment.contradiction or (moment.commanded and not moment.dead):
        return None
    sides: Mapping[Side, tuple[str, ...]] = moment.line
    for side in SIDES:
        points = sides[side]
        live = [moment.live(p) for p in points]
        gone = [moment.at_return(p) for p in points]
        for i in range(len(points) - 1, -1, -1):
            if not live[i]:
                continue
            beyond = [j for j in range(i + 1, len(points)) if gone[j]]
            # Without the load's way to the return post, what stands at neither hangs loose.
            if beyond and not any(live[j] for j in range(beyond[0], len(points))):
                found = _between(moment, side, points[i], points[beyond[0]])
                if found is not None:
                    return found
            break
    return None


def _between(moment: Moment, side: Side, start: str, end: str) -> Open | None:
    between = moment.run.between(start, end)
    assert between is not None, "both are points of one side"
    steps = [s for s in moment.run.way(side) if s.piece.id in between.pieces]
    if any(_by_command(moment, s) for s in steps):
        return None
    back = moment.run.source.back
    held = [moment.bounds.most(back, start), moment.bounds.most(end, back)]
    readings = tuple(sorted({r for each in held for r in each.readings}))
    return Open(side, start, end, between.pieces, readings)


def _by_command(moment: Moment, step: Step) -> bool:
    """Whether a contact may stand open because it was commanded to."""
    scenario = moment.conditions.scenario
    if scenario.is_open(step.piece):
        return True
    said = step.piece.id in scenario.contacts
    return not moment.commanded and kind_of(step.piece) in CONTACTS and not said
