"""Wire list, buying list and quote in words: what stands in each column."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from spare_margin.core.circuit.runs import Run
from spare_margin.core.lists.buying_list import BuyingLine
from spare_margin.core.lists.wire_list import End, WireLine
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece, Load, to_be_sized
from spare_margin.wording.craft.pieces import back_word, piece_name, size_name
from spare_margin.wording.language.figures import count, digits, price
from spare_margin.wording.language.units import figure, in_use, metres
from spare_margin.wording.repair.sizing_words import TO_BE_SIZED, rating_text

STATES = {"new": "new", "changed": "changed", "stays": "stays"}
WIRE_HEADS = (
    "No.", "From", "To", "Size", "Colour", "Cut", "Cable", "Terminal from", "Terminal to", "Fed by",
    "Label", "State",
)  # fmt: skip
BUY_HEADS = ("What", "Amount", "Each", "Together")
COLOURS = {"feed": "red", "return": "black"}
"""What wire of a two-wire craft usually is; the code in force and the workshop's own come first."""
MOST_LABEL = 40


@dataclass(frozen=True, slots=True)
class WireRow:
    """A wire in the words of its columns; `cut_m` is the cut as a number, in the workshop's units."""

    number: int
    wire: str
    start: str
    end: str
    size: str
    colour: str
    cut: str
    cut_m: str
    cable: str
    start_terminal: str
    end_terminal: str
    fed_by: str
    loads: str
    label: str
    state: str


@dataclass(frozen=True, slots=True)
class BuyRow:
    """A thing to buy in the words of its columns; amounts and prices as numbers beside."""

    group: str
    what: str
    amount: str
    number: str
    unit: str
    each: str
    price: str


def colour_of(side: str, craft: Craft, own: Mapping[str, str]) -> str:
    """The colour of a wire: the workshop's own, else the usual by polarity.

    Args:
        side: feed or return.
        craft: the wiring.
        own: the workshop's settings.
    """
    said = own.get(f"{side}_colour", "")
    if said:
        return said
    # Where + is the body, the switched and fused side is the negative one.
    flipped = craft.polarity == "positive"
    return COLOURS["return" if (side == "feed") == flipped else "feed"]


def wire_rows(
    craft: Craft, runs: Mapping[str, Run], lines: Iterable[WireLine], own: Mapping[str, str]
) -> list[WireRow]:
    """The wire list in words.

    Args:
        craft: the wiring.
        runs: its runs, by load id.
        lines: the wires.
        own: the workshop's settings.
    """
    pieces = {p.id: p for p in craft.pieces}
    loads = {x.id: x for x in craft.loads}
    out = []
    for line in lines:
        named = [loads[key].name for key in line.loads]
        fuse = pieces.get(line.fed_by)
        sign = "+" if line.wire.side == "feed" else "\u2212"
        whose = named[0] if len(named) == 1 else f"{named[0]} and {len(named) - 1} more"
        sized = line.wire.size is not None
        cut = metres(line.cut_m, ".4g") if line.cut_m else ""
        out.append(
            WireRow(
                number=line.number, wire=line.wire.id,
                start=_end_words(line.start, craft, pieces, loads),
                end=_end_words(line.end, craft, pieces, loads),
                size=size_words(line.wire) if sized else TO_BE_SIZED,
                colour=colour_of(line.wire.side, craft, own), cut=cut,
                cut_m=cut.replace("\u00a0", " ").split(" ")[0],
                cable=f"twin, {line.wire.cable}" if line.wire.cable else "single",
                start_terminal=_terminal_words(line.start), end_terminal=_terminal_words(line.end),
                fed_by="" if fuse is None else _fuse_words(fuse), loads=", ".join(named),
                label=f"{line.number} {whose} {sign}"[:MOST_LABEL], state=STATES[line.state],
            )
        )  # fmt: skip
    return out


def size_words(wire: Conductor) -> str:
    """A wire's size with its finish and what its insulation bears."""
    assert wire.size is not None
    finish = "" if wire.size.finish == "plain" else f" {wire.size.finish}"
    return f"{size_name(wire.size)}{finish}"


def _fuse_words(fuse: object) -> str:
    if not isinstance(fuse, FixedPiece) or to_be_sized(fuse):
        return "fuse to be sized"
    style = "breaker" if fuse.kind == "breaker" else fuse.style or "blade"
    return rating_text(fuse.rating_a or 0.0, style)


def _end_words(
    end: End, craft: Craft, pieces: Mapping[str, object], loads: Mapping[str, Load]
) -> str:
    if end.point:
        return craft.point(end.point).name
    if end.element in loads:
        sign = "+" if end.load_end == "feed" else "\u2212"
        return f"{loads[end.element].name} {sign}"
    piece = pieces.get(end.element)
    if isinstance(piece, FixedPiece | Conductor):
        return piece_name(piece)
    return "not drawn"


def _terminal_words(end: End) -> str:
    if end.terminal is None:
        return ""
    stud = f" {end.terminal.stud}" if end.terminal.stud else ""
    instead = f" (no {end.terminal.in_place_of} takes it)" if end.terminal.in_place_of else ""
    return f"{end.terminal.style}{stud}{instead}"


def buy_rows(lines: Iterable[BuyingLine], reel_m: float) -> list[BuyRow]:
    """The buying list in words.

    Args:
        lines: what is bought.
        reel_m: the length of the reels that wire comes on (m).
    """
    out = []
    for line in lines:
        long = line.group in ("wire", "cable")
        feet = in_use().length == "ft"
        amount = metres(line.metres, ".4g") if long else f"{count(line.count)}"
        reels = _reels(line.metres, reel_m) if long else ""
        number = amount.replace("\u00a0", " ").split(" ")[0] if long else str(line.count)
        each = line.each
        if each is not None and long and feet:
            each = each * 0.3048
        out.append(
            BuyRow(
                group=line.group, what=buy_words(line), amount=f"{amount}{reels}", number=number,
                unit=("ft" if feet else "m") if long else "", each=price(each),
                price=price(line.price),
            )
        )  # fmt: skip
    return out


def _reels(length_m: float, reel_m: float) -> str:
    reels = -(-length_m // reel_m)
    return f" ({reels:.0f} reels of {metres(reel_m)})" if reels > 1 else ""


def buy_words(line: BuyingLine) -> str:
    """What is to be bought."""
    size = "" if line.size is None else size_name(line.size)
    if line.size is not None and line.size.finish != "plain":
        size = f"{size} {line.size.finish}"
    heat = "" if line.insulation_c is None else f", {digits(line.insulation_c, 3)} \u00b0C"
    match line.group:
        case "cable":
            return f"Twin cable 2 \u00d7 {size or TO_BE_SIZED}{heat}"
        case "wire":
            return f"Wire {size or TO_BE_SIZED}{heat}"
        case "terminal":
            stud = f" {line.stud}" if line.stud else ""
            instead = f" (no {line.in_place_of} takes it)" if line.in_place_of else ""
            return f"{line.style.capitalize()}{stud} for {size or TO_BE_SIZED}{instead}"
        case "sleeve":
            return f"Heat-shrink sleeve for {size or TO_BE_SIZED}"
        case "fuse":
            if line.rating_a is None:
                return f"Fuse {TO_BE_SIZED}"
            return f"Fuse {rating_text(line.rating_a, line.style)}"
        case "holder":
            return f"Fuse holder, {line.style}"
        case "breaker":
            if line.rating_a is None:
                return f"Breaker {TO_BE_SIZED}"
            return f"Breaker {figure(f'{line.rating_a:g}')}\u00a0A"
        case "switch":
            return line.style.capitalize()
        case "bar":
            return "Busbar or stud"
        case "relay":
            return line.style
        case "socket":
            return "Relay socket"
        case "other":
            return line.style.replace("_", " ").capitalize()


def sum_of(lines: Sequence[BuyingLine]) -> tuple[float, int]:
    """What is priced altogether, and how many lines have no price."""
    priced = [line.price for line in lines if line.price is not None]
    return sum(priced), len(lines) - len(priced)


def work_words(minutes: float) -> str:
    """How long the work takes, roughly."""
    hours = minutes / 60
    return f"about {digits(hours, 2)} h" if hours >= 1 else f"about {minutes:.0f} min"


def cost_words(parts: float, minutes: float, an_hour: float | None) -> str:
    """What the work costs, and parts and work together; empty where nobody said what an hour costs.

    Args:
        parts: what is priced of the parts, altogether.
        minutes: how long the work takes.
        an_hour: what an hour of it costs.
    """
    if an_hour is None:
        return ""
    # Rounded: the minutes are a guess to a tenth at best.
    work = float(round(minutes / 60 * an_hour))
    return (
        f"Work at {price(an_hour)} an hour: {price(work)}. Parts and work: {price(parts + work)}."
    )


TYPICAL = (
    "Ampacities, opening times of fuses and ohms of joints are typical; the makers' figures come first.",
    "Lengths are as given; each cut has a tenth and 0.3 m more for bends and for making up the ends.",
    "Studs are the usual ones for the wire; the bar or post in hand decides.",
    "The code in force where the craft is used comes first, and licensed practice where it asks for it.",
)
"""What of a quote is typical and must be checked before anything is bought or fitted."""
UNSIZED = "Some of it is still to be sized: no amount or price is told for that."


def done_words(craft: Craft, lines: Sequence[WireLine]) -> list[str]:
    """What will be done, by run: its wires, new and changed."""
    loads = {x.id: x.name for x in craft.loads}
    told: dict[str, list[str]] = {}
    for line in lines:
        if line.state == "stays":
            continue
        whose = loads[line.loads[0]] if len(line.loads) == 1 else "Shared by several runs"
        size = size_words(line.wire) if line.wire.size is not None else TO_BE_SIZED
        side = "feed" if line.wire.side == "feed" else back_word()
        told.setdefault(whose, []).append(f"{side} {size} {metres(line.wire.length_m)}")
    return [f"{whose}: {', '.join(parts)}." for whose, parts in told.items()]
