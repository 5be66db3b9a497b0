"""The buying list: wire by the metre, terminals by size and stud, fuses by class, each with its price."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Literal

from spare_margin.core.model.pieces import Craft, FixedPiece, Size, to_be_sized
from spare_margin.core.model.tables import Tables
from spare_margin.core.upgrade.parts import bars, new_bars, new_relays

from .wire_list import WireLine

Group = Literal[
    "wire", "cable", "terminal", "sleeve", "bar", "fuse", "holder", "breaker", "switch", "relay",
    "socket", "other",
]  # fmt: skip
ORDER: tuple[Group, ...] = (
    "cable", "wire", "terminal", "sleeve", "bar", "fuse", "holder", "breaker", "switch", "relay",
    "socket", "other",
)  # fmt: skip
REEL_M = 25.0
"""Wire is taken to be sold on reels of this length, where it is not cut to order."""


@dataclass(frozen=True, slots=True)
class BuyingLine:
    """One thing to buy.

    Args:
        group: wire, cable (two wires in one), terminal, sleeve, bar, fuse, holder, breaker, switch,
            relay, socket, other.
        style: a joint's, fuse's or switch's style, a relay's name; a piece's kind for the others.
        size: the wire's size, or that of the wire that a terminal is for.
        insulation_c: what the insulation bears (C); None where nobody said.
        stud: the stud that a terminal fits.
        rating_a: a fuse's or breaker's rating (A).
        count: how many.
        metres: of wire and cable, how much (m).
        each: the price of one, or of a metre; None where nobody said.
        in_place_of: the style that the drawing has, where no such terminal takes the wire.
    """

    group: Group
    style: str = ""
    size: Size | None = None
    insulation_c: float | None = None
    stud: str = ""
    rating_a: float | None = None
    count: int = 0
    metres: float = 0.0
    each: float | None = None
    in_place_of: str = ""

    @property
    def price(self) -> float | None:
        """Altogether; None where nobody said."""
        amount = self.metres if self.group in ("wire", "cable") else self.count
        return None if self.each is None else self.each * amount


def buying_list(
    craft: Craft, lines: Iterable[WireLine], tables: Tables, lies: Craft | None = None
) -> tuple[BuyingLine, ...]:
    """What it takes to wire a craft, or to make it of what lies there; each thing once.

    Args:
        craft: the wiring.
        lines: its wires, or those of a selection.
        tables: the reference tables, with the workshop's prices.
        lies: what lies there already; None where nothing does.
    """
    listed = list(lines)
    wanted = [line for line in listed if line.state != "stays"]
    found: dict[BuyingLine, tuple[int, float]] = {}
    for each, number, metres in (*_wires(wanted, tables), *_terminals(wanted, tables),
                                 *_pieces(craft, listed, tables, lies)):  # fmt: skip
        had = found.get(each, (0, 0.0))
        found[each] = had[0] + number, had[1] + metres
    made = [_counted(each, *amount) for each, amount in found.items()]
    rows = tables.conductors.rows
    area = {size: row.area_mm2 for size, row in rows.items()}
    return tuple(
        sorted(
            made,
            key=lambda b: (
                ORDER.index(b.group), b.style, area.get(b.size, 0.0) if b.size else 0.0,
                b.rating_a or 0.0,
            ),
        )
    )  # fmt: skip


def _counted(each: BuyingLine, number: int, metres: float) -> BuyingLine:
    return BuyingLine(
        each.group, each.style, each.size, each.insulation_c, each.stud, each.rating_a, number,
        metres, each.each, each.in_place_of,
    )  # fmt: skip


Amount = tuple[BuyingLine, int, float]


def _wires(lines: Iterable[WireLine], tables: Tables) -> Iterator[Amount]:
    """Single wires by their cut; the two wires of a cable as one, twice the price of a wire."""
    cables: dict[str, tuple[BuyingLine, float]] = {}
    for line in lines:
        size = line.wire.size
        price = tables.stock.wire.get(size) if size is not None else None
        if line.wire.cable:
            twice = None if price is None else 2 * price
            thing = BuyingLine("cable", size=size, insulation_c=line.wire.insulation_c, each=twice)
            longest = max(line.cut_m, cables.get(line.wire.cable, (thing, 0.0))[1])
            cables[line.wire.cable] = (thing, longest)
        else:
            thing = BuyingLine("wire", size=size, insulation_c=line.wire.insulation_c, each=price)
            yield thing, 1, line.cut_m
    for thing, metres in cables.values():
        yield thing, 1, metres


def _terminals(lines: Iterable[WireLine], tables: Tables) -> Iterator[Amount]:
    """A terminal and a sleeve for each end that has a joint."""
    sleeve = tables.stock.part("sleeve").price
    for line in lines:
        for end in (line.start, line.end):
            if end.terminal is None:
                continue
            own = end.terminal
            yield (
                BuyingLine(
                    "terminal", own.style, line.wire.size, stud=own.stud,
                    each=tables.stock.part("joint", own.style).price,
                    in_place_of=own.in_place_of,
                ),
                1, 0.0,
            )  # fmt: skip
            yield BuyingLine("sleeve", size=line.wire.size, each=sleeve), 1, 0.0


def _pieces(
    craft: Craft, lines: list[WireLine], tables: Tables, lies: Craft | None
) -> Iterator[Amount]:
    """Fuses with their holders, breakers, switches and relays that are new or otherwise than what lies."""
    old = {p.id: p for p in lies.pieces} if lies is not None else {}
    near = {line.fed_by for line in lines}
    yield from _bars(craft, lines, tables, lies)
    # A coil that nothing lies of is a load of the craft, and no part.
    relays = {} if lies is None else new_relays(lies, craft, tables)
    for relay in relays.values():
        yield BuyingLine("relay", relay.name, each=relay.price), 1, 0.0
        yield BuyingLine("socket", each=tables.stock.part("socket").price), 1, 0.0
    # A fuse behind which nothing is listed is no part of a selection.
    for piece in craft.pieces:
        if not isinstance(piece, FixedPiece) or piece.kind in ("joint", "body_return", "unknown"):
            continue
        if piece.kind == "relay_contact" and relays:
            continue  # the relay that it is of is told above
        was = old.get(piece.id)
        fresh = was is None or to_be_sized(was)
        other = isinstance(was, FixedPiece) and was.rating_a != piece.rating_a
        if not (fresh or other) or (piece.kind == "fuse" and piece.id not in near):
            continue
        yield from _piece(piece, tables, holder=fresh)


def _bars(
    craft: Craft, lines: Iterable[WireLine], tables: Tables, lies: Craft | None
) -> Iterator[Amount]:
    """The bars and studs that the listed wires end on and that are not there yet."""
    there = {line.wire.id for line in lines}
    ends = {end for p in craft.pieces if p.id in there for end in (p.start, p.end)}
    # A wire ends in its terminal, and that sits on the bar.
    ends |= {
        end
        for p in craft.pieces
        if getattr(p, "style", None) == "ring on stud" and {p.start, p.end} & ends
        for end in (p.start, p.end)
    }
    new = bars(craft) if lies is None else new_bars(lies, craft)
    for _ in [key for key in new if key in ends]:
        yield BuyingLine("bar", each=tables.stock.part("bar").price), 1, 0.0


def _piece(piece: FixedPiece, tables: Tables, holder: bool) -> Iterator[Amount]:
    stock = tables.stock
    if piece.kind == "fuse":
        style = piece.style or "blade"
        price = stock.part("fuse", style).price
        yield BuyingLine("fuse", style, rating_a=piece.rating_a, each=price), 1, 0.0
        if holder:
            yield BuyingLine("holder", style, each=stock.part("holder", style).price), 1, 0.0
    elif piece.kind == "breaker":
        price = stock.part("breaker").price
        yield BuyingLine("breaker", rating_a=piece.rating_a, each=price), 1, 0.0
    elif piece.kind == "switch":
        style = piece.style or "panel switch"
        yield BuyingLine("switch", style, each=stock.part("switch", style).price), 1, 0.0
    else:
        yield BuyingLine("other", piece.kind, each=None), 1, 0.0
