"""The conductors of a whole craft sized at once, and what each ceiling costs."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import NOTHING_READ, Read, not_known, traced
from spare_margin.core.errors import JobError
from spare_margin.core.evidence.response.circuits import AS_DRAWN, Adjusted
from spare_margin.core.model.limits import Ceilings, Limits
from spare_margin.core.model.pieces import Conductor, Craft, Size
from spare_margin.core.model.tables import Tables
from spare_margin.core.protection.fuses import protecting

from .lines import HeldLimit
from .options import cables, costs, in_stock, strong_enough
from .programme import Effort
from .sizing import Sizing, Unsizable, size_conductors
from .task import Task

NEAR_V = 0.015
"""A ceiling with less than this to spare may be what the sizes answer to."""
MORE_V = 0.01
"""By so much a ceiling is loosened to see what it costs (V)."""
MOST_PRICED = 8
"""More ceilings than this nobody reads; each costs a sizing."""


@dataclass(frozen=True, slots=True)
class CeilingPrice:
    """What one more hundredth of a volt under a ceiling would save, in units of the objective."""

    held: HeldLimit
    spare_v: float
    saves: float


def whole_craft_task(
    craft: Craft,
    limits: Limits,
    tables: Tables,
    objective: str,
    kept: frozenset[str] = frozenset(),
    thicker_only: bool = False,
    point: Adjusted = AS_DRAWN,
    read: Read = NOTHING_READ,
) -> Task:
    """The task of sizing every conductor of a craft but those that are kept.

    A run of which part is not known is held to nothing, and what only such runs pass stays as it is.

    Args:
        objective: copper or price.
        kept: conductors that stay as they are.
        thicker_only: whether a size may only grow, as where the wire lies already.
        point: the craft as measured.
        read: what was measured, by load.
        limits: the limits that its runs are held to.
        tables: the reference tables.

    Raises JobError where a conductor may take no size, or a price is missing that is wanted.
    """
    every = traced(craft, closed_ohms(craft, tables)).runs
    fuses = protecting(every.values())
    unknown = not_known(every, read)
    runs = {key: run for key, run in every.items() if key not in unknown}
    price = costs(objective, tables)
    used = {s.piece.id for run in runs.values() for s in run.steps()}
    rows = tables.conductors.rows
    options: dict[str, tuple[Size, ...]] = {}
    for piece in craft.pieces:
        if not isinstance(piece, Conductor) or piece.id in kept or piece.id not in used:
            continue
        if piece.size is None or piece.resistance_ohm is not None or piece.length_m <= 0:
            continue
        fuse = fuses.get(piece.id)
        stock = [s for s in in_stock(piece, tables) if s in price]
        offered = strong_enough(
            piece, stock, tables, craft.scenarios, fuse.rating_a if fuse is not None else None
        )
        if thicker_only and piece.size in rows:
            held = rows[piece.size].area_mm2
            offered = (piece.size, *(s for s in offered if rows[s].area_mm2 > held))
        options[piece.id] = offered
    ceilings: Mapping[str, Ceilings] = {
        key: limits.ceilings(run.load, craft.nominal_v) for key, run in runs.items()
    }
    return Task(
        craft, tables, options, lambda wire, size: price.get(size, 0.0), ceilings,
        tied=cables(craft.pieces), starts=3, point=point,
    )  # fmt: skip


def ceiling_prices(task: Task, made: Sizing, effort: Effort) -> list[CeilingPrice]:
    """What the ceilings cost that the sizes answer to, the dearest first.

    Each is loosened by a hundredth of a volt by itself and the craft sized again; `effort` is for each.

    Args:
        task: what is to be sized, and what it is held to.
        made: the sizes that were found.
    """
    tight: dict[tuple[str, str], tuple[float, HeldLimit]] = {}
    for held, spare in made.trial.spares.items():
        if held.under != "least" and spare < NEAR_V:
            key = (held.load, held.under)
            tight[key] = min(tight.get(key, (spare, held)), (spare, held), key=lambda each: each[0])
    out = []
    for spare, held in sorted(tight.values(), key=lambda each: each[0])[:MOST_PRICED]:
        own = task.ceilings[held.load]
        field = f"{held.under}_v"
        looser = replace(own, **{field: getattr(own, field) + MORE_V})
        try:
            other = size_conductors(
                replace(task, ceilings={**task.ceilings, held.load: looser}), effort
            )
        except (Unsizable, JobError):
            continue
        out.append(CeilingPrice(held, spare, max(made.cost - other.cost, 0.0)))
    return sorted(out, key=lambda each: -each.saves)
