"""Tables of runs from a spreadsheet: heads in any order and words, cells understood, wrong ones named."""

from dataclasses import replace

import pytest

from spare_margin.core.edit.new_craft import new_craft
from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import Craft, CraftKind, Size
from spare_margin.data.tables import shipped_tables
from spare_margin.exchange.tables.run_cells import Cells, table_csv, table_text

TABLES = shipped_tables()


def craft(kind: CraftKind = "boat") -> Craft:
    return new_craft(kind, 12.0, "none" if kind == "boat" else "negative", "agm", 100.0)


def test_columns_are_found_by_their_heads_in_any_order() -> None:
    table = table_text(
        "Must not fail;Length (ft);Device;Watts;Amps;Colour\n"
        "x;12;Mast lamp;;1,5;red\n"
        ";8;Cold box;45;;\n"
    )
    assert table.columns == ("load", "draws", "length", "critical")
    assert table.unknown == ("Colour",)
    assert table.rows == (
        {"critical": "x", "length": "12 ft", "load": "Mast lamp", "draws": "1,5 A"},
        {"length": "8 ft", "load": "Cold box", "draws": "45 W"},
    )


@pytest.mark.parametrize(
    ("head", "cell"),
    [
        ("Name", "load"), ("what", "load"), ("Consumer", "load"), ("A", "draws"), ("current (A)", "draws"),
        ("Power", "draws"), ("one way", "length"), ("Length, one way", "length"), ("m", "length"),
        ("mm\u00b2", "size"), ("AWG", "size"), ("wire_size", "size"), ("Fuse (A)", "fuse"),
        ("breaker", "fuse"), ("Fed from", "panel"), ("bus", "panel"), ("Critical", "critical"),
        ("joints each end", "joints"), ("cable type", "cable"), ("Distance m", "length"),
        ("Cable run (m)", "length"), ("Max current A", "draws"), ("Power draw", "draws"),
        ("Load W", "draws"), ("Load (A)", "draws"), ("Wire mm2", "size"), ("Wire", "size"),
        ("Wire AWG", "size"), ("Fuse A", "fuse"), ("Appliance", "load"),
    ],
)  # fmt: skip
def test_heads_as_people_write_them(head: str, cell: str) -> None:
    other = "load" if cell != "load" else "length"
    assert cell in table_text(f"{head}\t{other}\nx\ty").columns


def test_a_unit_behind_a_head_counts_as_one_in_brackets() -> None:
    (row,) = table_text("Appliance\tLoad W\tDistance ft\tWire AWG\nCold box\t45\t12\t14").rows
    assert row == {"load": "Cold box", "draws": "45 W", "length": "12 ft", "size": "14 AWG"}


def test_without_heads_it_is_load_draws_length() -> None:
    assert table_text("Cold box\t45W\t6\nFan\t2\t3.5").rows == (
        {"load": "Cold box", "draws": "45W", "length": "6"},
        {"load": "Fan", "draws": "2", "length": "3.5"},
    )


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "nothing to read"),
        ("Load\tA\n", "head line alone"),
        ("a\tb\n" + "c\t1\n" * 301, "301 rows"),
    ],
)
def test_what_is_no_table(text: str, says: str) -> None:
    with pytest.raises(JobError, match=says):
        table_text(text)


def test_a_row_as_it_is_understood() -> None:
    row, errors = Cells(craft(), TABLES).row(
        {"load": "Sump pump", "draws": "4.6 x4", "length": "3m50", "critical": "must not fail"}
    )
    assert errors == []
    assert row is not None
    assert (row.load.name, row.load.current_a, row.load.start_multiple) == ("Sump pump", 4.6, 4)
    assert row.load.critical
    assert (row.length_m, row.cable, row.size, row.joints, row.panel) == (3.5, "twin", None, 1, "")
    assert row.fuse is not None
    assert row.fuse.rating_a is None, "to be rated"


@pytest.mark.parametrize(
    ("cell", "text", "wanted"),
    [
        ("draws", "45 W", ("constant_power", 45.0)), ("draws", "45", ("constant_current", 45.0)),
        ("draws", "350 mA", ("constant_current", 0.35)), ("draws", "2 amps", ("constant_current", 2.0)),
        ("draws", "lamp 10 W", ("filament", 10.0)), ("size", "2.5", (False, Size("mm2", "2.5"))),
        ("size", "2x1.5", (True, Size("mm2", "1.5"))), ("size", "#14", (False, Size("awg", "14"))),
        ("size", "to be sized", (False, None)), ("cable", "Single", "single"), ("cable", "", "twin"),
        ("fuse", "15", ("fuse", 15.0)), ("fuse", "15A", ("fuse", 15.0)),
        ("fuse", "15A fuse", ("fuse", 15.0)), ("fuse", "strip fuse 200", ("fuse", 200.0)),
        ("fuse", "breaker 10", ("breaker", 10.0)), ("critical", "no", False), ("critical", "Y", True),
        ("joints", "2", 2), ("length", "12 ft", 3.6576), ("length", "350 cm", 3.5),
    ],
)  # fmt: skip
def test_cells_take_the_trades_words(cell: str, text: str, wanted: object) -> None:
    reading = Cells(craft(), TABLES)
    if cell == "draws":
        load = reading.draws(text, "Fan")
        found: object = (load.behaviour, load.current_a or load.power_w)
    elif cell == "fuse":
        fuse = reading.fuse(text)
        assert fuse is not None
        found = (fuse.kind, fuse.rating_a)
    else:
        found = getattr(reading, cell)(text)
    assert found == (pytest.approx(wanted) if isinstance(wanted, float) else wanted)


def test_no_fuse_is_said() -> None:
    assert Cells(craft(), TABLES).fuse("none") is None


def test_every_wrong_cell_is_named() -> None:
    row, errors = Cells(craft(), TABLES).row(
        {"load": " ", "draws": "lots", "length": "-3", "cable": "rope", "size": "2.6", "fuse": "pink",
         "joints": "9", "critical": "perhaps"}
    )  # fmt: skip
    assert row is None
    assert [e.path for e in errors] == [
        "load", "draws", "critical", "length", "size", "cable", "fuse", "joints",
    ]  # fmt: skip
    assert all(e.accepted for e in errors)


def test_what_is_usual_goes_by_the_craft() -> None:
    usual = {kind: Cells(craft(kind), TABLES).usual for kind in ("boat", "caravan", "vehicle")}
    assert usual == {"boat": "twin", "caravan": "twin", "vehicle": "body"}


def test_motors_of_a_short_time_are_known_by_name() -> None:
    reading = Cells(craft(), TABLES)
    assert reading.draws("80", "Anchor windlass").duty == "short_time"
    assert reading.draws("80 charging", "Anchor windlass").duty == "charging"
    assert reading.draws("2", "Fan").duty == "ordinary"


def test_a_table_written_is_read_as_the_same() -> None:
    rows = [
        {"load": "=Sum, of it", "draws": "5", "length": "6", "cable": "twin", "size": "2.5 mm\u00b2",
         "fuse": "breaker 10", "joints": "1", "panel": "Panel +", "critical": "yes"},
        {"load": "Fan", "draws": "7 A x3", "length": "4"},
    ]  # fmt: skip
    again = table_text(table_csv(rows)).rows  # type: ignore[arg-type]
    assert again[0] == rows[0] | {"draws": "5 A"}
    assert again[1] == rows[1]
    assert replace(craft(), kind="other") != craft()
