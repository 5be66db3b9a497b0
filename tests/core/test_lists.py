"""The wire list and the buying list: ends, cuts, terminals, what is new beside what lies there."""

from dataclasses import replace

import pytest

from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import traced
from spare_margin.core.edit.drawing import drawn
from spare_margin.core.edit.new_craft import new_craft
from spare_margin.core.edit.run_rows import rows_of
from spare_margin.core.lists.buying_list import BuyingLine, buying_list
from spare_margin.core.lists.terminals import terminal_for
from spare_margin.core.lists.wire_list import WireLine, wire_list
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece, Size
from spare_margin.core.upgrade.making import moved
from spare_margin.core.upgrade.moves import RelayNearLoad
from spare_margin.data.tables import shipped_tables
from spare_margin.exchange.run_line.reader import read_line

TABLES = shipped_tables()
LINES = (
    "fuse 30 > ring > 10 mm\u00b2 2 m > ring > [Panel +] > fuse 10 > ring > twin 2x2.5 6 m > pin > "
    'load "Cold box" 5 A > pin > twin 2x2.5 6 m > ring > [Panel \u2212] > ring > 10 mm\u00b2 2 m > ring',
    '[Panel +] > breaker 5 > pin > 25 mm\u00b2 3 m > pin > load "Lamp" 2 A > 1.5 mm\u00b2 3 m > '
    "[Panel \u2212]",
)


def craft_of(*lines: str) -> Craft:
    craft = new_craft("boat", 12.0, "none", "agm", 100.0)
    for text in lines:
        read = read_line(text, craft, TABLES)
        assert read.line is not None, read.errors
        craft, _ = drawn(craft, read.line, None, frozenset())
    return craft


CRAFT = craft_of(*LINES)


def listed(
    craft: Craft = CRAFT, lies: Craft | None = None, in_feet: bool = False
) -> tuple[WireLine, ...]:
    runs = traced(craft, closed_ohms(craft, TABLES)).runs
    panels = {key: row.panel for key, row in rows_of(craft, runs).items()}
    return wire_list(craft, runs, TABLES, lies, panels, in_feet)


def bought(craft: Craft = CRAFT, lies: Craft | None = None) -> dict[tuple[str, str], BuyingLine]:
    lines = buying_list(craft, listed(craft, lies), TABLES, lies)
    keys = [
        (b.group, f"{b.style} {b.size.value if b.size else ''} {b.rating_a or ''}") for b in lines
    ]
    assert len(set(keys)) == len(keys), "each thing once"
    return {(g, " ".join(k.split())): b for (g, k), b in zip(keys, lines, strict=True)}


def test_the_wires_of_a_craft_in_the_order_one_wires_them() -> None:
    lines = listed()
    names = {p.id: p.name for p in CRAFT.points}
    assert [line.number for line in lines] == list(range(1, 7))
    ends = [
        (
            names.get(line.start.point) or line.start.element,
            names.get(line.end.point) or line.end.element,
        )
        for line in lines
    ]
    assert ends == [
        ("f1", "Panel +"), ("Panel \u2212", "Battery \u2212 clamp"), ("f2", "cold-box"),
        ("cold-box", "Panel \u2212"), ("b1", "lamp"), ("lamp", "Panel \u2212"),
    ]  # fmt: skip
    assert [line.fed_by for line in lines] == ["f1", "", "f2", "f2", "b1", "b1"]
    assert lines[2].end.load_end == "feed"
    assert lines[3].start.load_end == "return"
    assert {line.state for line in lines} == {"new"}


def test_cuts_by_hand() -> None:
    """A tenth and 0.3 m more, to the decimetre: 6 m is 6.9 m; in feet to the next half foot: 7.01 m."""
    assert [line.cut_m for line in listed()] == [2.5, 2.5, 6.9, 6.9, 3.6, 3.6]
    assert listed(in_feet=True)[2].cut_m == pytest.approx(23 * 0.3048)


def test_terminals_go_by_the_wire() -> None:
    lines = listed()
    assert lines[0].start.terminal == terminal_for("ring on stud", 10.0)
    assert lines[2].end.terminal is not None
    assert lines[2].end.terminal.style == "pin"
    thick = lines[4].end.terminal
    assert thick is not None
    assert (thick.style, thick.stud, thick.in_place_of) == ("ring on stud", "M8", "pin")
    assert lines[5].start.terminal is None, "no joint is drawn there"


@pytest.mark.parametrize(
    ("style", "area", "wanted"),
    [
        ("pin", 6.0, ("pin", "", "")), ("pin", 6.1, ("ring on stud", "M8", "pin")),
        ("splice", 16.0, ("splice", "", "")), ("splice", 25.0, ("ring on stud", "M8", "splice")),
        ("ring on stud", 2.5, ("ring on stud", "M5", "")),
        ("ring on stud", 120.0, ("ring on stud", "M10", "")),
        ("post clamp", 35.0, ("post clamp", "M10", "")),
    ],
)  # fmt: skip
def test_which_terminal_fits(style: str, area: float, wanted: tuple[str, str, str]) -> None:
    found = terminal_for(style, area)
    assert (found.style, found.stud, found.in_place_of) == wanted


def test_the_buying_list_by_hand() -> None:
    found = bought()
    cable = found["cable", "2.5"]
    assert (cable.metres, cable.each) == (6.9, 2 * 0.85), "both wires of a cable are bought once"
    assert found["wire", "10"].metres == 5.0
    assert found["wire", "10"].price == pytest.approx(5.0 * 3.3)
    assert found["terminal", "ring on stud 10"].count == 4
    assert found["terminal", "pin 2.5"].count == 2
    assert found["fuse", "blade 30.0"].count == 1
    assert found["holder", "blade"].count == 2
    assert found["breaker", "5.0"].price == 14.0
    assert found["sleeve", "10"].count == 4
    assert not [key for key in found if key[0] == "other"]


def test_against_what_lies_there_only_what_is_otherwise_is_bought() -> None:
    def thicker(p: Conductor | FixedPiece) -> Conductor | FixedPiece:
        if isinstance(p, Conductor) and p.cable:
            return replace(p, size=Size("mm2", "4"))
        if isinstance(p, FixedPiece) and p.kind == "breaker":
            return replace(p, rating_a=10.0)
        return p

    plan = replace(CRAFT, pieces=tuple(map(thicker, CRAFT.pieces)))
    states = [line.state for line in listed(plan, CRAFT)]
    assert states == ["stays", "stays", "changed", "changed", "stays", "stays"]
    found = bought(plan, CRAFT)
    assert set(found) == {
        ("cable", "4"), ("terminal", "ring on stud 4"), ("terminal", "pin 4"), ("sleeve", "4"),
        ("breaker", "10.0"),
    }  # fmt: skip
    assert bought(CRAFT, CRAFT) == {}, "nothing is replaced by itself"


def test_what_is_to_be_sized_has_no_price() -> None:
    craft = craft_of('fuse > ring > twin 6 m > pin > load "Cold box" 5 A')
    assert all(line.wire.size is None for line in listed(craft))
    found = bought(craft)
    assert found["cable", ""].price is None
    assert found["fuse", "blade"].rating_a is None
    # What was to be sized and is sized now is new, though it was drawn before.
    sized = replace(
        craft,
        pieces=tuple(
            replace(p, size=Size("mm2", "1.5")) if isinstance(p, Conductor) else p
            for p in craft.pieces
        ),
    )
    assert {line.state for line in listed(sized, craft)} == {"new"}


def test_a_bar_is_bought_where_rings_meet() -> None:
    """Two rings and a fuse on the plus bar, three rings on the minus one; none on the battery's posts."""
    two = craft_of(
        "6 mm² 2 m > ring on stud [Bar] > fuse 10 > 1.5 mm² 3 m > load Lamp 2 A > 1.5 mm² 3 m > "
        "ring on stud [Minus bar] > ring on stud > 6 mm² 2 m > body",
        "[Bar] > ring on stud > 1.5 mm² 1 m > load Fan 1 A > 1.5 mm² 1 m > ring on stud > [Minus bar]",
    )
    bar = TABLES.stock.part("bar")
    line = bought(two)["bar", ""]
    assert (line.count, line.price) == (2, 2 * bar.price)
    assert ("bar", "") not in bought(two, lies=two)
    assert bought(CRAFT)["bar", ""].count == 1


def test_a_relay_that_is_planned_is_bought_with_its_socket() -> None:
    lies = craft_of('10 mm² 4 m > panel switch > load "Pump" 5 A > 4 mm² 4 m > body')
    tables, relay = TABLES, TABLES.stock.relays["Small relay 30 A, resistor across the coil"]
    runs = traced(lies, closed_ohms(lies, tables)).runs
    made = moved(lies, runs, "pump", [RelayNearLoad(relay, "blade", 10.0)])
    plan = replace(
        made.craft,
        pieces=tuple(
            replace(p, size=Size("mm2", "4"))
            if isinstance(p, Conductor) and p.id in made.free
            else p
            for p in made.craft.pieces
        ),
    )
    lines = bought(plan, lies=lies)
    assert lines["relay", relay.name].price == relay.price
    assert lines["socket", ""].price == tables.stock.part("socket").price
    assert ("other", "relay_contact") not in lines
