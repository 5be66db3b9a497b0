"""Which sizes a conductor may take: what is on offer, what is strong enough, what its fuse protects."""

from collections.abc import Iterable, Mapping
from dataclasses import replace

from spare_margin.core.errors import JobError
from spare_margin.core.model.conductors import careful_ampacity_a
from spare_margin.core.model.naming import called
from spare_margin.core.model.pieces import Conductor, FixedPiece, Scenario, Size
from spare_margin.core.model.tables import Tables

LEAST_MM2, LEAST_FREE_MM2 = 0.75, 1.5
"""The mechanical minimum, and that of a conductor that hangs free between supports."""


def on_offer(
    wire: Conductor, tables: Tables, stock: Iterable[str] | None = None
) -> tuple[Size, ...]:
    """The sizes of a conductor's own system and finish, thinnest first.

    `stock` names the sizes that are kept; None stands for every row of the table.

    Args:
        wire: the conductor.
        tables: the reference tables.
    """
    if wire.size is None:
        return ()
    kept = None if stock is None else set(stock)
    rows = tables.conductors.rows
    own = [
        s
        for s in rows
        if (s.system, s.finish) == (wire.size.system, wire.size.finish)
        and (kept is None or s.value in kept)
    ]
    return tuple(sorted(own, key=lambda s: rows[s].area_mm2))


def in_stock(wire: Conductor, tables: Tables) -> tuple[Size, ...]:
    """The sizes on offer that the workshop keeps.

    Args:
        wire: the conductor.
        tables: the reference tables.
    """
    return tuple(s for s in on_offer(wire, tables) if s in tables.stock.wire)


def strong_enough(
    wire: Conductor,
    sizes: Iterable[Size],
    tables: Tables,
    scenarios: Iterable[Scenario],
    protected_a: float | None,
) -> tuple[Size, ...]:
    """The sizes that are thick enough by themselves, and that bear what their fuse lets through.

    Args:
        protected_a: the rating (A) of the fuse that protects the conductor; None where none does.
        wire: the conductor.
        tables: the reference tables.
        scenarios: the states of the craft.

    Raises JobError (path: the conductor) where none is left, with what stood in the way.
    """
    least = LEAST_FREE_MM2 if wire.unsupported else LEAST_MM2
    rows = tables.conductors.rows
    offered = list(sizes)
    if not offered:
        raise JobError(
            f"elements.{wire.id}.size",
            f"nothing in stock for {called(wire)}",
            "wire in stock of its system and finish",
        )
    thick = [s for s in offered if rows[s].area_mm2 >= least]
    if not thick:
        raise JobError(
            f"elements.{wire.id}.size",
            f"nothing in stock is as thick as {called(wire)} must be",
            f"{least:g} mm\u00b2 or more",
        )
    if protected_a is None:
        return tuple(thick)
    hot = list(scenarios)
    borne = [s for s in thick if _bears(replace(wire, size=s), hot, tables, protected_a)]
    if not borne:
        raise JobError(
            f"elements.{wire.id}.size",
            f"nothing in stock for {called(wire)} bears what its fuse of {protected_a:g} A lets through",
            "thicker wire, insulation that bears more heat, or a smaller fuse",
        )
    return tuple(borne)


def _bears(wire: Conductor, scenarios: list[Scenario], tables: Tables, amperes: float) -> bool:
    """Whether a conductor surely bears a current in the hottest of the scenarios; not where no row says."""
    borne = [careful_ampacity_a(wire, s, tables.conductors) for s in scenarios]
    return all(each is not None and each >= amperes for each in borne)


def costs(objective: str, tables: Tables) -> Mapping[Size, float]:
    """What a metre of each size costs: mm2 of copper, or its price where the workshop says one.

    Args:
        objective: copper or price.
        tables: the reference tables.

    Raises JobError (path: stock) where a size that is kept has no price and prices are asked for.
    """
    if objective == "copper":
        return {size: row.area_mm2 for size, row in tables.conductors.rows.items()}
    out = {}
    for size in tables.conductors.rows:
        if size in tables.stock.wire:
            price = tables.stock.wire[size]
            if price is None:
                raise JobError(
                    "stock",
                    f"{size.value} {size.system} {size.finish} has no price",
                    "a price a metre in the table of wire in stock, or least copper",
                )
            out[size] = price
    return out


def cables(pieces: Iterable[Conductor | FixedPiece]) -> tuple[frozenset[str], ...]:
    """The conductors of each cable that has a name: they are of one size.

    Args:
        pieces: the pieces.
    """
    by_name: dict[str, set[str]] = {}
    for piece in pieces:
        if isinstance(piece, Conductor) and piece.cable:
            by_name.setdefault(piece.cable, set()).add(piece.id)
    return tuple(frozenset(ids) for ids in by_name.values())
