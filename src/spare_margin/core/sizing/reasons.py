"""What forces each wire to be as thick as it is, and what the next thinner would miss."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Literal

from spare_margin.core.circuit.runs import Run
from spare_margin.core.errors import SpareMarginError
from spare_margin.core.model.conductors import careful_ampacity_a
from spare_margin.core.model.pieces import Conductor, Side, Size
from spare_margin.core.protection.fuses import protecting

from .lines import HeldLimit
from .options import LEAST_FREE_MM2, LEAST_MM2, in_stock
from .sizes_tried import Missed, tried
from .sizing import Sizing
from .task import Task, units_of

Forced = Literal["thinnest", "mechanical", "fuse", "current", "ceiling", "volts", "dearer", "open"]
"""Nothing thinner is on offer; it would be too weak by itself; it would not bear its fuse; nor its current;
a ceiling would be missed; a load's least volts; the thinner costs more; it might do (not proven)."""
MOST_EATEN = 2


@dataclass(frozen=True, slots=True)
class Reason:
    """Why a wire is no thinner.

    Args:
        wire: its id.
        forced: what forces it.
        thinner: the next thinner size on offer.
        amperes: what the wire must bear (A): its fuse's rating, or what flows more than the thinner bears.
        held: the ceiling or least volts that the thinner would miss, and in which scenario.
        by_v: by how much it would be missed (V).
        eaten: the other pieces that lose most under that ceiling, by id, each with its volts.
        with_wire: the wire of its cable that is the reason, by id; empty where it is itself.
    """

    wire: str
    forced: Forced
    thinner: Size | None = None
    amperes: float = 0.0
    held: HeldLimit | None = None
    by_v: float = 0.0
    eaten: tuple[tuple[str, float], ...] = ()
    with_wire: str = ""


def reasons(task: Task, made: Sizing, wanted: Iterable[str]) -> dict[str, Reason]:
    """The reason of each of these wires, by its id.

    Args:
        task: what was sized, and what it was held to.
        made: the sizes that were found.
        wanted: ids of the wires.
    """
    asked = frozenset(wanted)
    runs = task.runs(task.sized(made.sizes))
    fuses = protecting(runs.values())
    out: dict[str, Reason] = {}
    for unit in units_of(task):
        if not asked & {w.id for w in unit.wires}:
            continue
        found = _of_unit(task, made, unit.wires, {k: f.rating_a for k, f in fuses.items()}, runs)
        own = found.wire
        for wire in unit.wires:
            if wire.id in asked:
                out[wire.id] = found if wire.id == own else _beside(found, wire.id)
    return out


def _beside(found: Reason, wire: str) -> Reason:
    return replace(found, wire=wire, with_wire=found.wire)


def _of_unit(
    task: Task, made: Sizing, wires: tuple[Conductor, ...], ratings: Mapping[str, float | None],
    runs: Mapping[str, Run],
) -> Reason:  # fmt: skip
    """Why a unit is no thinner: by itself first, then as the craft would do with the thinner one."""
    first = wires[0]
    size = made.sizes[first.id]
    rows = task.tables.conductors.rows
    thinner = [
        s for s in in_stock(_sized(first, size), task.tables)
        if rows[s].area_mm2 < rows[size].area_mm2
    ]  # fmt: skip
    if not thinner:
        return Reason(first.id, "thinnest")
    down = thinner[-1]
    for wire in wires:
        least = LEAST_FREE_MM2 if wire.unsupported else LEAST_MM2
        if rows[down].area_mm2 < least:
            return Reason(wire.id, "mechanical", down)
    for wire in wires:
        rating = ratings.get(wire.id)
        if rating is not None and not _bears(task, _sized(wire, down), rating):
            return Reason(wire.id, "fuse", down, rating)
    try:
        trial = tried(task, {**made.sizes, **{w.id: down for w in wires}})
    except SpareMarginError:
        return Reason(first.id, "open", down)
    if not trial.missed:
        dearer = task.cost(first, down) >= task.cost(first, size)
        return Reason(first.id, "dearer" if dearer else "open", down)
    warm = next((m for m in trial.missed if m.wire), None)
    if warm is not None:
        return Reason(warm.wire, "current", down, warm.by, warm.held)
    worst = max(trial.missed, key=lambda each: each.by)
    forced: Forced = "volts" if worst.held.under == "least" else "ceiling"
    eaten = _eaten(task, made, worst, runs, {w.id for w in wires})
    return Reason(first.id, forced, down, 0.0, worst.held, worst.by, eaten)


def _sized(wire: Conductor, size: Size) -> Conductor:
    return replace(wire, size=size)


def _bears(task: Task, wire: Conductor, amperes: float) -> bool:
    table = task.tables.conductors
    borne = [careful_ampacity_a(wire, s, table) for s in task.craft.scenarios]
    return all(each is not None and each >= amperes for each in borne)


def _eaten(
    task: Task, made: Sizing, worst: Missed, runs: Mapping[str, Run], own: set[str]
) -> tuple[tuple[str, float], ...]:
    """What loses most beside the wire itself on the sides that the ceiling is for."""
    run = runs.get(worst.held.load)
    if run is None or worst.held.starting is not None:
        return ()
    sides: tuple[Side, ...] = ("feed", "return")
    if worst.held.under in sides:
        sides = (worst.held.under,)
    craft = task.sized(made.sizes)
    scenario = craft.scenario(worst.held.scenario)
    elements = task.solved(craft, scenario).solution.elements
    lost = {
        s.piece.id: abs(elements[s.piece.id].drop_v or 0.0)
        for side in sides for s in run.way(side) if s.piece.id not in own
    }  # fmt: skip
    most = sorted(lost.items(), key=lambda each: -each[1])[:MOST_EATEN]
    return tuple((key, volts) for key, volts in most if volts > 0)
