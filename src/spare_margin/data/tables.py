"""Reads the tables, shipped and the workshop's own, into values the core works with."""

import csv
from collections.abc import Iterable, Mapping
from dataclasses import replace
from functools import cache
from importlib import resources

from spare_margin.core.errors import JobError
from spare_margin.core.model.conductors import AmpacityRow, ConductorRow, ConductorTable
from spare_margin.core.model.fixed_pieces import FixedRow, FixedTable
from spare_margin.core.model.fuse_classes import MULTIPLES, FuseClass
from spare_margin.core.model.limits import Ceilings, LimitRule, LimitSet
from spare_margin.core.model.meters import Meter
from spare_margin.core.model.odds import Odds
from spare_margin.core.model.pieces import Size
from spare_margin.core.model.spreads import Spreads
from spare_margin.core.model.stock import Part, Relay, Stock
from spare_margin.core.model.tables import Tables
from spare_margin.data.table_rows import TABLES, Cells, uncovered

OwnRows = Mapping[str, Mapping[str, Cells]]


@cache
def shipped_rows(table: str) -> dict[str, dict[str, str]]:
    """The shipped rows of a table by their keys; read once."""
    text = resources.files("spare_margin.data").joinpath("reference", f"{table}.csv")
    rows = csv.DictReader(text.read_text("utf-8").splitlines())
    return {TABLES[table].key_of(row): row for row in rows}


@cache
def shipped_tables() -> Tables:
    """All shipped tables; read once."""
    return tables_with({})


def rows_of(table: str, own: OwnRows) -> dict[str, Cells]:
    """A table's rows by their keys; the workshop's own stand in for shipped ones of the same key."""
    return {**shipped_rows(table), **own.get(table, {})}


def tables_with(own: OwnRows) -> Tables:
    """The tables with the workshop's own rows among them."""
    rows = {table: rows_of(table, own).values() for table in TABLES}
    return Tables(
        _conductors(rows["conductors"], rows["ampacity"]),
        _fixed(rows["fixed_pieces"], rows["fuses"]),
        _limit_sets(rows["limit_sets"], rows["single_limits"]),
        {r["name"]: _meter(r) for r in rows["meters"]},
        Odds(
            {
                (r["kind"], r["style"]): (float(r["excess"]), float(r["open"]))
                for r in rows["failure_odds"]
            }
        ),
        Spreads({r["kind"]: float(r["spread"]) for r in rows["spreads"]}),
        _stock(rows["stock"], rows["parts"], rows["relays"]),
        {r["style"]: _fuse_class(r) for r in rows["fuse_classes"]},
    )


def own_sets(rows: Iterable[Cells]) -> dict[str, list[Cells]]:
    """Rows of limit sets of one's own, by set.

    Raises JobError (path: the column) for a shipped set, which is copied rather than changed, and
    for one that says nothing of some loads.
    """
    shipped = {row["set"] for row in shipped_rows("limit_sets").values()}
    sets: dict[str, list[Cells]] = {}
    for row in rows:
        if row["set"] in shipped:
            raise JobError(
                "set", f"{row['set']} is a shipped set: copy it under another name", "a new name"
            )
        sets.setdefault(row["set"], []).append(row)
    for name, held in sets.items():
        lacking = uncovered(held)
        if lacking:
            raise JobError("duty", f"{name} says nothing of {lacking}", "rows for every load")
    return sets


def demo_files() -> list[tuple[str, bytes]]:
    """The demo jobs as (name, job file), in the order of the shelf."""
    folder = resources.files("spare_margin.data").joinpath("demo")
    return sorted((f.name.removesuffix(".json"), f.read_bytes()) for f in folder.iterdir())


def demo_practice() -> bytes:
    """What two made-up learners practised, as JSON."""
    return resources.files("spare_margin.data").joinpath("demo-practice.json").read_bytes()


def _conductors(sizes: Iterable[Cells], currents: Iterable[Cells]) -> ConductorTable:
    rows = [
        ConductorRow(
            Size(r["system"], r["size"], r["finish"]),
            float(r["area_mm2"]),
            float(r["ohm_per_km_20c"]) / 1000,
            r["source"],
        )
        for r in sizes
    ]
    systems = list(dict.fromkeys(row.size.system for row in rows))
    rows.sort(key=lambda row: (systems.index(row.size.system), row.area_mm2))
    ampacities = {
        (r["system"], r["size"], round(float(r["insulation_c"]))): AmpacityRow(
            float(r["ampacity_a"]), r["source"]
        )
        for r in currents
    }
    return ConductorTable.of(rows, ampacities)


def _fixed(styles: Iterable[Cells], elements: Iterable[Cells]) -> FixedTable:
    rows = tuple(
        FixedRow(
            kind=r["kind"],  # type: ignore[arg-type]
            style=r["style"],
            name=r["name"],
            good_low_ohm=float(r["good_low_milliohm"]) / 1000,
            good_high_ohm=float(r["good_high_milliohm"]) / 1000,
            aged_ohm=float(r["aged_milliohm"]) / 1000,
            source=r["source"],
        )
        for r in styles
    )
    fuses = {(r["style"], float(r["rating_a"])): float(r["cold_milliohm"]) / 1000 for r in elements}
    return FixedTable(rows, fuses)


def _limit_sets(rules: Iterable[Cells], singles: Iterable[Cells]) -> dict[str, LimitSet]:
    single: dict[str, dict[str, float]] = {}
    for r in singles:
        single.setdefault(r["set"], {})[r["kind"]] = float(r["volts"])
    shipped = {r["set"] for r in shipped_rows("limit_sets").values()}
    sets: dict[str, LimitSet] = {}
    for r in rules:
        volts = (float(r[c]) if r[c] else None for c in ("feed_v", "return_v", "round_trip_v"))
        rule = LimitRule(
            duty=None if r["duty"] == "any" else r["duty"],  # type: ignore[arg-type]
            critical={"yes": True, "no": False, "any": None}[r["critical"]],
            ceilings=Ceilings(*volts),
            note=r["note"],
        )
        held = sets.get(r["set"])
        own = r["set"] not in shipped
        first = held or LimitSet(r["set"], r["name"], r["why"], (), single.get(r["set"], {}), own)
        sets[r["set"]] = replace(first, rules=(*first.rules, rule))
    return sets


def _stock(wire: Iterable[Cells], parts: Iterable[Cells], relays: Iterable[Cells]) -> Stock:
    return Stock(
        {
            Size(r["system"], r["size"], r["finish"]): (
                float(r["price_per_m"]) if r["price_per_m"] else None
            )
            for r in wire
            if r["kept"] == "yes"
        },
        {(r["kind"], r["style"]): Part(float(r["price"]), float(r["minutes"])) for r in parts},
        {r["name"]: _relay(r) for r in relays},
    )


def _relay(r: Cells) -> Relay:
    figures = ("coil_v", "coil_ohm", "pull_in_v", "drop_out_v", "contact_a", "motor_a", "lamp_a",
               "price")  # fmt: skip
    return Relay(
        name=r["name"],
        suppression=r["suppression"],  # type: ignore[arg-type]
        changeover=r["changeover"] == "yes",
        **{key: float(r[key]) for key in figures},
    )


def _fuse_class(r: Cells) -> FuseClass:
    times = tuple(float(r[f"s_at_{m:g}".replace(".", "_")]) for m in MULTIPLES)
    return FuseClass(r["style"], r["speed"], times, float(r["breaking_a"]))


def _meter(r: Cells) -> Meter:
    percent, counts, full = (float(r[key]) for key in ("percent", "counts", "full_counts"))
    says = f"{r['name']}, {full:g} counts, {percent:g} % + {counts:g}"
    return Meter(says, percent, counts, round(full))
