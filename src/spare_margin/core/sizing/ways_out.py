"""Where no size keeps a ceiling: what else would, and how much of it."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Literal

from spare_margin.core.circuit.runs import Run
from spare_margin.core.circuit.solution import ElementStates
from spare_margin.core.errors import SpareMarginError
from spare_margin.core.least import ROUNDING
from spare_margin.core.model.limits import Ceilings
from spare_margin.core.model.pieces import Conductor, FixedPiece, Side
from spare_margin.core.sizing.sizing import Impossible
from spare_margin.core.sizing.task import Task

Way = Literal["joints", "own_feed", "shorter", "limits"]
MOST_WAYS = 3


@dataclass(frozen=True, slots=True)
class WayOut:
    """One thing that would let a run keep its ceiling with the thickest wire.

    Args:
        way: fewer joints, a feed or return of its own, a shorter way, another school's limits.
        facts: how much of it, in SI: `pieces` and `gains_v`; `metres` of `of_metres`; the `set`'s id.
    """

    way: Way
    facts: Mapping[str, float | str] = field(default_factory=dict)


def ways_out(task: Task, why: Impossible) -> tuple[WayOut, ...]:
    """What would keep a ceiling that no size keeps, the least work first; none where it is no ceiling.

    Args:
        task: what was to be sized, and what it is held to.
        why: the ceiling that is missed, and by how much.
    """
    held = why.held
    if held is None or why.wire or held.under == "least" or held.starting or why.by == float("inf"):
        return ()
    thick = task.sized({key: sizes[-1] for key, sizes in task.options.items() if sizes})
    try:
        solved = task.solved(thick, thick.scenario(held.scenario))
    except SpareMarginError:
        return ()
    run = task.runs(thick)[held.load]
    sides: tuple[Side, ...] = ("feed", "return") if held.under == "round_trip" else (held.under,)
    return tuple(_found(task, run, sides, solved.solution.elements, why))[:MOST_WAYS]


def _found(
    task: Task, run: Run, sides: tuple[Side, ...], elements: ElementStates, why: Impossible
) -> Iterator[WayOut]:
    steps = [step for side in sides for step in run.way(side)]
    lost = {s.piece.id: abs(elements[s.piece.id].drop_v or 0.0) for s in steps}
    own_a = abs(elements.current_a(run.load.id))
    joints = sorted(
        (s.piece.id for s in steps if isinstance(s.piece, FixedPiece) and s.piece.kind == "joint"),
        key=lambda key: -lost[key],
    )
    gained = 0.0
    for count, key in enumerate(joints, 1):
        gained += lost[key]
        if gained >= why.by - ROUNDING:
            yield WayOut("joints", {"pieces": count, "gains_v": gained})
            break
    shared = sum(
        lost[s.piece.id] * (1 - own_a / flows)
        for s in steps
        if (flows := abs(elements.current_a(s.piece.id))) > own_a + ROUNDING
    )
    if shared >= why.by - ROUNDING:
        yield WayOut("own_feed", {"gains_v": shared})
    wires = [s.piece for s in steps if isinstance(s.piece, Conductor) and s.piece.length_m > 0]
    wires_v = sum(lost[w.id] for w in wires)
    if wires_v > why.by:
        metres = sum(w.length_m for w in wires)
        yield WayOut("shorter", {"metres": metres * why.by / wires_v, "of_metres": metres})
    looser = _looser(task, run, why)
    if looser:
        yield WayOut("limits", {"set": looser})


def _looser(task: Task, run: Run, why: Impossible) -> str:
    """The strictest limit set that allows what is lost; empty where none does."""
    assert why.held is not None
    nominal_v = task.craft.nominal_v
    needed = _under(task.ceilings[run.load.id], why.held.under)
    if needed is None:
        return ""
    fits = []
    for key, each in task.tables.limit_sets.items():
        allows = _under(each.ceilings(run.load, nominal_v), why.held.under)
        if allows is not None and allows >= needed + why.by - ROUNDING:
            fits.append((allows, key))
    return min(fits)[1] if fits else ""


def _under(ceilings: Ceilings, under: str) -> float | None:
    found: float | None = getattr(ceilings, f"{under}_v")
    return found
