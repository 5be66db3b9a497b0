"""Sizing a job file's conductors: from what it says to a task of the core, and what came of it."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Literal

from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import traced
from spare_margin.core.errors import JobError
from spare_margin.core.model.limits import Ceilings, Limits
from spare_margin.core.model.pieces import AUTO, Conductor, Craft, Size
from spare_margin.core.model.tables import Tables
from spare_margin.core.protection.fuses import protecting
from spare_margin.core.sizing.options import cables, costs, on_offer, strong_enough
from spare_margin.core.sizing.task import Task
from spare_margin.exchange.job_file.job_file import ReadJob

Objective = Literal["copper", "price"]


def task_of(read: ReadJob, tables: Tables, objective: Objective, least: bool = False) -> Task:
    """The task of a job file: every conductor whose size is `auto`, within the ceilings that it names.

    Args:
        least: whether every load must also get the least volts it works at, starts beside it included.

    Raises JobError (path: in the file) for a stock without a size that fits, or a price that is missing.
    """
    craft = read.craft
    price = costs(objective, tables)
    options = {}
    for i, piece in enumerate(craft.pieces):
        if isinstance(piece, Conductor) and piece.size is not None and piece.size.value == AUTO:
            options[piece.id] = _offered(piece, i, read, tables, price)
    fuses = _fuses(craft, options, tables)
    for piece in craft.pieces:
        if isinstance(piece, Conductor) and piece.id in options:
            options[piece.id] = strong_enough(
                piece, options[piece.id], tables, craft.scenarios, fuses.get(piece.id)
            )
    return Task(
        craft=craft,
        tables=tables,
        options=options,
        cost=lambda wire, size: price[size],
        ceilings=_ceilings(read, tables),
        tied=cables(craft.pieces),
        least=least,
    )


def _fuses(
    craft: Craft, options: Mapping[str, tuple[Size, ...]], tables: Tables
) -> dict[str, float | None]:
    """The rating (A) of the fuse that protects each conductor; which one does not depend on sizes."""
    pieces = tuple(
        replace(p, size=options[p.id][-1]) if isinstance(p, Conductor) and p.id in options else p
        for p in craft.pieces
    )
    sized = replace(craft, pieces=pieces)
    runs = traced(sized, closed_ohms(sized, tables)).runs
    return {key: fuse.rating_a for key, fuse in protecting(runs.values()).items()}


def _offered(
    wire: Conductor, place: int, read: ReadJob, tables: Tables, price: Mapping[Size, float]
) -> tuple[Size, ...]:
    stock = read.job.stock or None
    assert wire.size is not None
    every = on_offer(wire, tables)
    known = ", ".join(size.value for size in every)
    if not every:
        raise JobError(
            f"elements[{place}].size",
            f"no row for {wire.size.system} {wire.size.finish}",
            "a system and finish of the table of wire",
        )
    for i, value in enumerate(stock or ()):
        if value not in {s.value for s in tables.conductors.rows}:
            raise JobError(f"stock[{i}]", f"there is no size {value}", known)
    offered = tuple(s for s in on_offer(wire, tables, stock) if s in price)
    if not offered:
        said = "with a price " if len(price) < len(tables.conductors.rows) else ""
        raise JobError("stock", f"holds nothing {said}for {wire.id}", f"one of {known}")
    return offered


def _ceilings(read: ReadJob, tables: Tables) -> dict[str, Ceilings]:
    """The ceilings by load: those the file gives itself, over those of the set it names."""
    if not read.names_set:
        return {x.id: read.job.own_limits.get(x.id, Ceilings()) for x in read.craft.loads}
    limits = Limits(tables.limit_sets[read.job.limit_set], read.job.own_limits)
    return {x.id: limits.ceilings(x, read.craft.nominal_v) for x in read.craft.loads}
