"""What an upgrade takes: wire cut to length, terminals, holders, fuse, relay; price and minutes."""

import math
from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from spare_margin.core.model.conductors import copper_kg
from spare_margin.core.model.pieces import (
    Conductor,
    Craft,
    FixedPiece,
    Repair,
    Side,
    Size,
    to_be_sized,
)
from spare_margin.core.model.stock import Relay
from spare_margin.core.model.tables import Tables

ALLOWANCE_SHARE, ALLOWANCE_M = 0.1, 0.3
"""What is cut longer than it lies: for bends and for the second try at a terminal."""
CUT_STEP_M = 0.1
"""Wire is cut to the decimetre."""


@dataclass(frozen=True, slots=True)
class PartLine:
    """One line of a list of parts.

    Args:
        kind: wire, joint, fuse, holder, relay, socket, sleeve, bar …: what the table of parts calls it.
        style: its style, or the name of a relay.
        count: how many; for wire, of lengths like this.
        metres: the length of a wire as cut.
        size: a wire's size.
        piece: id of the piece in the planned wiring, or of a bar's point, where it is one.
        side: the side a wire stands on, and `insulation_c` what its insulation bears.
        price: altogether; None where nobody said.
        minutes: to fit them.
    """

    kind: str
    style: str
    count: int = 1
    metres: float = 0.0
    size: Size | None = None
    piece: str = ""
    side: Side | None = None
    insulation_c: float | None = None
    rating_a: float | None = None
    price: float | None = 0.0
    minutes: float = 0.0
    copper_kg: float = 0.0


def cut_m(metres: float) -> float:
    """The length (m) to cut for a wire that lies so long.

    Args:
        metres: how long it lies (m).

    >>> cut_m(4.0)
    4.7
    """
    steps = (metres * (1 + ALLOWANCE_SHARE) + ALLOWANCE_M) / CUT_STEP_M
    return round(math.ceil(steps - 1e-9) * CUT_STEP_M, 2)


def what_lies(craft: Craft) -> Craft:
    """What of a wiring is there already: not what is to be sized, nor the joints on such wires alone.

    Args:
        craft: the wiring.
    """
    free = {p.id for p in craft.pieces if to_be_sized(p)}
    if not free:
        return craft
    wires: dict[str, list[str]] = {}
    for piece in craft.pieces:
        if isinstance(piece, Conductor):
            for end in (piece.start, piece.end):
                wires.setdefault(end, []).append(piece.id)
    for piece in craft.pieces:
        if isinstance(piece, FixedPiece) and piece.kind == "joint":
            beside = [*wires.get(piece.start, []), *wires.get(piece.end, [])]
            if beside and free.issuperset(beside):
                free.add(piece.id)
    return replace(craft, pieces=tuple(p for p in craft.pieces if p.id not in free))


def parts_of(before: Craft, after: Craft, tables: Tables) -> tuple[PartLine, ...]:
    """What it takes to make one wiring of the other.

    Args:
        before: the wiring as it was.
        after: the wiring as it is now.
        tables: the reference tables.
    """
    before = what_lies(before)
    lines = list(_pieces(before, after, mended(before, after), tables))
    sleeves = sum(2 for line in lines if line.kind == "wire")
    if sleeves:
        lines.append(_part("sleeve", "", tables, sleeves))
    for bar in new_bars(before, after):
        lines.append(_part("bar", "", tables, piece=bar))
    for relay in new_relays(before, after, tables).values():
        minutes = _minutes(tables, "relay_contact")
        lines.append(PartLine("relay", relay.name, price=relay.price, minutes=minutes))
        lines.append(_part("socket", "", tables))
    return tuple(lines)


def mended(before: Craft, after: Craft) -> dict[str, Repair]:
    """The pieces that one wiring has better than the other, and what was done to each.

    Args:
        before: the wiring as it was.
        after: the wiring as it is now.
    """
    old = {p.id: p for p in before.pieces}
    return {
        p.id: p.repair
        for p in after.pieces
        if p.repair is not None and p.id in old and old[p.id].repair != p.repair
    }


def new_relays(before: Craft, after: Craft, tables: Tables) -> dict[str, Relay]:
    """The relays that one wiring has and the other has not, by the id of their coil.

    Args:
        before: the wiring as it was.
        after: the wiring as it is now.
        tables: the reference tables.
    """
    old = {x.id for x in before.loads}
    out = {}
    for load in after.loads:
        if load.id in old or load.load_ohm is None:
            continue
        fit = [
            r
            for r in tables.stock.relays.values()
            if (r.coil_ohm, r.coil_v) == (load.load_ohm, after.nominal_v)
        ]
        if fit:
            out[load.id] = fit[0]
    return out


RINGS_OF_A_BAR = 2
"""Points at which as many rings meet, and something else, want a bar or a stud to sit on."""


def bars(craft: Craft) -> tuple[str, ...]:
    """The ids of the points that want a bar: rings meet there, off the battery and off the body.

    Args:
        craft: the wiring.
    """
    rings: Counter[str] = Counter()
    held: set[str] = {post for source in craft.sources for post in (source.live, source.back)}
    for piece in craft.pieces:
        ends = (piece.start, piece.end)
        if isinstance(piece, FixedPiece) and piece.kind == "joint":
            if piece.style == "post clamp":
                held.update(ends)
            elif piece.style == "ring on stud":
                rings.update(ends)
        elif isinstance(piece, FixedPiece) and piece.kind == "body_return":
            held.update(ends)
    return tuple(
        p.id
        for p in craft.points
        if p.id not in held and rings[p.id] >= RINGS_OF_A_BAR
        and craft.touching[p.id] > RINGS_OF_A_BAR
    )  # fmt: skip


def new_bars(before: Craft, after: Craft) -> tuple[str, ...]:
    """The ids of the points that want a bar in one wiring and did not in the other.

    Args:
        before: the wiring as it was.
        after: the wiring as it is now.
    """
    old = set(bars(before))
    return tuple(key for key in bars(after) if key not in old)


def _pieces(
    before: Craft, after: Craft, better: Mapping[str, Repair], tables: Tables
) -> Iterator[PartLine]:
    """What is new, thicker or mended, piece by piece; the terminals of thicker wires at the end."""
    old = {p.id: p for p in before.pieces}
    ends: Counter[str] = Counter()
    for piece in after.pieces:
        was = old.get(piece.id)
        if isinstance(piece, Conductor):
            if was is None or getattr(was, "size", None) != piece.size:
                yield _wire(piece, tables)
            if was is not None and getattr(was, "size", None) != piece.size:
                # Both its ends are made anew; those of a new wire are pieces of their own.
                ends.update(_ends(after, piece))
        elif was is None:
            yield from _fixed(piece, tables)
        elif piece.id in better:
            yield _mended(piece, better[piece.id], tables)
    for style, count in ends.items():
        yield _part("joint", style, tables, count)


def _wire(wire: Conductor, tables: Tables) -> PartLine:
    length = cut_m(wire.length_m)
    size = wire.size
    price = tables.stock.wire.get(size) if size is not None else None
    return PartLine(
        "wire", wire.name, metres=length, size=size, piece=wire.id, side=wire.side,
        insulation_c=wire.insulation_c,
        price=None if price is None else price * length,
        minutes=_minutes(tables, "wire") * wire.length_m,
        copper_kg=0.0 if size is None else copper_kg(size, length, tables.conductors) or 0.0,
    )  # fmt: skip


def _ends(craft: Craft, wire: Conductor) -> list[str]:
    """The styles of the terminals that a wire's two ends want: those of the joints beside it."""
    beside = [
        p.style or "pin"
        for p in craft.pieces
        if isinstance(p, FixedPiece)
        and p.kind == "joint"
        and {p.start, p.end} & {wire.start, wire.end}
    ]
    return [*beside, "ring on stud", "ring on stud"][:2]


def _fixed(piece: FixedPiece, tables: Tables) -> list[PartLine]:
    if piece.kind == "relay_contact":
        return []
    line = _part(piece.kind, piece.style or "", tables, piece=piece.id, rating=piece.rating_a)
    if piece.kind == "fuse":
        return [line, _part("holder", piece.style or "blade", tables)]
    return [line]


def _mended(piece: FixedPiece, how: str, tables: Tables) -> PartLine:
    line = _part(piece.kind, piece.style or "", tables, piece=piece.id, rating=piece.rating_a)
    if how != "cleaned":
        return line
    return PartLine("cleaning", piece.style or "", piece=piece.id, minutes=line.minutes)


def _part(
    kind: str,
    style: str,
    tables: Tables,
    count: int = 1,
    piece: str = "",
    rating: float | None = None,
) -> PartLine:
    part = tables.stock.part(kind, style)
    return PartLine(
        kind, style, count, piece=piece, rating_a=rating, price=part.price * count,
        minutes=part.minutes * count,
    )  # fmt: skip


def _minutes(tables: Tables, kind: str) -> float:
    return tables.stock.part(kind).minutes
