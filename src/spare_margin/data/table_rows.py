"""What each table holds: its columns, what a cell may be, and which cells name a row.

A row is a mapping of column to text, as the CSV files have it; `checked` is where text becomes a
row that can be trusted.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import get_args

from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import Duty, FixedKind

Cells = Mapping[str, str]


@dataclass(frozen=True, slots=True)
class Column:
    """One column: its key in CSV, its head on the page, and what its cells may be.

    A number lies above `low` (or at it, with `at_low`) and up to `high`; a column with `choices`
    takes one of them; other columns take text. `wanted` is whether a cell may not be empty.
    """

    key: str
    head: str
    number: bool = False
    low: float = 0.0
    at_low: bool = False
    high: float = 1e6
    choices: tuple[str, ...] = ()
    wanted: bool = True


@dataclass(frozen=True, slots=True)
class TableKind:
    """One table. `key` are the columns that tell its rows apart."""

    id: str
    name: str
    says: str
    columns: tuple[Column, ...]
    key: tuple[str, ...]

    def key_of(self, cells: Cells) -> str:
        """What tells this row from the others of its table."""
        return "|".join(cells.get(column, "") for column in self.key)


def _number(key: str, head: str, high: float = 1e6, **more: object) -> Column:
    return Column(key, head, number=True, high=high, **more)  # type: ignore[arg-type]


SOURCE = Column("source", "source of figure")
SYSTEM = Column("system", "system", choices=("mm2", "mm2-road", "awg"))
DUTIES = ("any", *get_args(Duty))
KINDS = tuple(k for k in get_args(FixedKind) if k not in ("fuse", "breaker", "resistor", "unknown"))

PART_KINDS = (*get_args(FixedKind), "holder", "socket", "sleeve", "wire", "bar")
SPREAD_KINDS = ("conductor", "copper", *get_args(FixedKind), "load", "emf", "internal")

TABLES: dict[str, TableKind] = {
    table.id: table
    for table in (
        TableKind(
            "conductors", "Wire", "Resistance by size, at 20 \u00b0C.",
            (SYSTEM, Column("size", "size"), _number("area_mm2", "area mm\u00b2", 1000),
             Column("material", "material", choices=("copper",)), Column("finish", "finish"),
             _number("ohm_per_km_20c", "m\u03a9/m at 20 \u00b0C", 10000), SOURCE),
            ("system", "size", "finish"),
        ),
        TableKind(
            "ampacity", "Ampacity",
            "What a size may carry in free air at 30 \u00b0C. The code in force comes first.",
            (SYSTEM, Column("size", "size"),
             _number("insulation_c", "insulation \u00b0C", 300, low=40, at_low=True),
             _number("ampacity_a", "A", 5000), SOURCE),
            ("system", "size", "insulation_c"),
        ),
        TableKind(
            "fuses", "Fuses", "Cold resistance of the element, holder not included.",
            (Column("style", "style"), _number("rating_a", "rating A", 5000),
             _number("cold_milliohm", "m\u03a9 cold", 1e5), SOURCE),
            ("style", "rating_a"),
        ),
        TableKind(
            "fixed_pieces", "Joints, switches, relays, body",
            "Starting values, to be replaced by what is measured.",
            (Column("kind", "kind", choices=KINDS), Column("style", "style"),
             Column("name", "name"),
             _number("good_low_milliohm", "good from m\u03a9", 1e6),
             _number("good_high_milliohm", "good to m\u03a9", 1e6),
             _number("aged_milliohm", "aged m\u03a9", 1e6), SOURCE),
            ("kind", "style"),
        ),
        TableKind(
            "stock", "Wire in stock",
            "What the workshop keeps; only this is offered. A row that says no is not.",
            (SYSTEM, Column("size", "size"), Column("finish", "finish"),
             Column("kept", "kept", choices=("yes", "no")),
             _number("price_per_m", "price per metre", 10000, at_low=True, wanted=False), SOURCE),
            ("system", "size", "finish"),
        ),
        TableKind(
            "parts", "Parts",
            "What a part costs, and the minutes that fitting one takes. Wire: minutes a metre.",
            (Column("kind", "kind", choices=PART_KINDS), Column("style", "style", wanted=False),
             _number("price", "price", 100000, at_low=True),
             _number("minutes", "minutes", 10000, at_low=True), SOURCE),
            ("kind", "style"),
        ),
        TableKind(
            "relays", "Relays",
            "Coil at 20 \u00b0C; what the contact bears by kind of load. The maker's sheet comes first.",
            (Column("name", "name"), _number("coil_v", "coil V", 100),
             _number("coil_ohm", "coil \u03a9", 1e5), _number("pull_in_v", "pull-in voltage V", 100),
             _number("drop_out_v", "drops out at V", 100), _number("contact_a", "resistive A", 2000),
             _number("motor_a", "motor A", 2000), _number("lamp_a", "lamp A", 2000),
             Column("suppression", "across the coil", choices=("none", "resistor", "diode")),
             Column("changeover", "changeover", choices=("yes", "no")),
             _number("price", "price", 100000, at_low=True), SOURCE),
            ("name",),
        ),
        TableKind(
            "fuse_classes", "How fast fuses open",
            "The least seconds at so many times the rating, and the short-circuit current it can break.",
            (Column("style", "style"), Column("speed", "speed", choices=("fast", "slow")),
             _number("s_at_1_35", "s at 1.35 \u00d7", 1e5), _number("s_at_2", "2 \u00d7", 1e5),
             _number("s_at_3_5", "3.5 \u00d7", 1e5), _number("s_at_6", "6 \u00d7", 1e5),
             _number("s_at_10", "10 \u00d7", 1e5), _number("breaking_a", "breaking capacity A", 1e6),
             SOURCE),
            ("style",),
        ),
        TableKind(
            "loads", "Loads", "Loads as they are typed in a run line.",
            (Column("name", "name"), Column("line", "as in a run line"), SOURCE), ("name",),
        ),
        TableKind(
            "typical_runs", "Typical runs", "Runs to start from.",
            (Column("name", "name"), Column("line", "run line"), SOURCE), ("name",),
        ),
        TableKind(
            "meters", "Meters", "Accuracy: \u00b1 (% of the reading + counts).",
            (Column("name", "name"), _number("percent", "% of reading", 50, at_low=True),
             _number("counts", "counts", 1000, at_low=True),
             _number("full_counts", "display counts", 1e7, low=100, at_low=True), SOURCE),
            ("name",),
        ),
        TableKind(
            "failure_odds", "Failure odds",
            "How likely each kind is to fail, relative to the others; fault finding starts from these.",
            (Column("kind", "kind", choices=("none", "load", "source", "conductor", *get_args(FixedKind))),
             Column("style", "style", wanted=False),
             _number("excess", "excess resistance", 1000),
             _number("open", "open", 1000), SOURCE),
            ("kind", "style"),
        ),
        TableKind(
            "spreads", "Spreads",
            "How far good pieces stand off the tables (one sigma, as a share): the doubt before a reading.",
            (Column("kind", "kind", choices=SPREAD_KINDS),
             _number("spread", "spread", 5), SOURCE),
            ("kind",),
        ),
        TableKind(
            "limit_sets", "Limit sets",
            "How much each side may lose, in V at 12 V nominal; more at 24 and 48 V in proportion.",
            (Column("set", "set"), Column("name", "name"),
             Column("why", "who and why", wanted=False),
             Column("duty", "duty", choices=DUTIES),
             Column("critical", "critical", choices=("any", "yes", "no")),
             _number("feed_v", "feed V", 12, wanted=False),
             _number("return_v", "return V", 12, wanted=False),
             _number("round_trip_v", "both V", 12, wanted=False),
             Column("note", "note", wanted=False)),
            ("set", "duty", "critical"),
        ),
        TableKind(
            "single_limits", "Single pieces",
            "How much one piece may lose under each set, in V at 12 V nominal.",
            (Column("set", "set"),
             Column("kind", "kind", choices=(*get_args(FixedKind), "any")),
             _number("volts", "V", 12)),
            ("set", "kind"),
        ),
    )
}  # fmt: skip
"""Every table by its id, in the order in which they are shown."""


def checked(table: TableKind, cells: Mapping[str, str]) -> dict[str, str]:
    """The row as it is kept. JobError (path: the column) for a cell that cannot be."""
    known = {column.key for column in table.columns}
    for key in cells:
        if key not in known:
            raise JobError(key, "is not a column of this table", ", ".join(known))
    out = {c.key: _cell(c, " ".join(cells.get(c.key, "").split())) for c in table.columns}
    if table.id == "fixed_pieces":
        figures = ("good_low_milliohm", "good_high_milliohm", "aged_milliohm")
        low, high, aged = (float(out[key]) for key in figures)
        if not low <= high <= aged:
            raise JobError("aged_milliohm", "good from, good to and aged do not rise", "0.5, 1, 3")
    if table.id == "relays" and not (
        float(out["drop_out_v"]) < float(out["pull_in_v"]) <= float(out["coil_v"])
    ):
        raise JobError(
            "pull_in_v", "drops out, pulls in and coil do not rise", "as 1.2, 7.8 and 12 V"
        )
    if table.id == "fuse_classes":
        times = [float(out[c.key]) for c in table.columns if c.key.startswith("s_at")]
        if times != sorted(times, reverse=True):
            raise JobError("s_at_2", "the times do not fall", "shorter at more current")
    if table.id == "limit_sets":
        bounded = out["round_trip_v"] or (out["feed_v"] and out["return_v"])
        if not bounded:
            raise JobError(
                "round_trip_v", "nothing bounds this loop", "both V, or feed V and return V"
            )
    return out


def _cell(column: Column, text: str) -> str:
    if not text:
        if column.wanted:
            raise JobError(column.key, "is empty", _accepted(column))
        return ""
    if len(text) > 2000 or (column.key != "line" and len(text) > 200):
        raise JobError(column.key, "is too long", "up to 200 characters")
    if column.choices:
        if text not in column.choices:
            raise JobError(column.key, f"\u201c{text[:40]}\u201d is unknown", _accepted(column))
        return text
    return _figure(column, text) if column.number else text


def _figure(column: Column, text: str) -> str:
    wrong = JobError(column.key, f"\u201c{text[:40]}\u201d is no such number", _accepted(column))
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        raise wrong from None
    above = value >= column.low if column.at_low else value > column.low
    if not (math.isfinite(value) and above and value <= column.high):
        raise wrong
    return f"{value:.12g}"


def _accepted(column: Column) -> str:
    if column.choices:
        return ", ".join(column.choices)
    if column.number:
        word = "from" if column.at_low else "above"
        return f"a number {word} {column.low:g} up to {column.high:g}"
    return "text"


def uncovered(rows: list[Cells]) -> str:
    """What a limit set's rows say nothing about, in words; empty where they cover every load."""
    for duty in get_args(Duty):
        for critical in ("yes", "no"):
            if not any(
                r["duty"] in ("any", duty) and r["critical"] in ("any", critical) for r in rows
            ):
                word = "that is critical" if critical == "yes" else "of the ordinary sort"
                return f"{duty.replace('_', ' ')} loads {word}"
    return ""
