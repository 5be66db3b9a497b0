"""Reads the shipped CSV tables into the values the core works with."""

import csv
from collections.abc import Iterator
from dataclasses import replace
from functools import cache
from importlib import resources

from spare_margin.core.conductors import AmpacityRow, ConductorRow, ConductorTable
from spare_margin.core.fixed_pieces import FixedRow, FixedTable
from spare_margin.core.limits import Ceilings, LimitRule, LimitSet
from spare_margin.core.pieces import Size
from spare_margin.core.tables import Tables


@cache
def shipped_tables() -> Tables:
    """All shipped tables; read once."""
    return Tables(_conductors(), _fixed(), _limit_sets())


def demo_files() -> list[tuple[str, bytes]]:
    """The demo jobs as (name, job file), in the order of the shelf."""
    folder = resources.files("spare_margin.data").joinpath("demo")
    return sorted((f.name.removesuffix(".json"), f.read_bytes()) for f in folder.iterdir())


def _rows(name: str) -> Iterator[dict[str, str]]:
    text = resources.files("spare_margin.data").joinpath("reference", name).read_text("utf-8")
    yield from csv.DictReader(text.splitlines())


def _conductors() -> ConductorTable:
    rows = [
        ConductorRow(
            Size(r["system"], r["size"], r["finish"]),
            float(r["area_mm2"]),
            float(r["ohm_per_km_20c"]) / 1000,
            r["source"],
        )
        for r in _rows("conductors.csv")
    ]
    ampacities = {
        (r["system"], r["size"], int(r["insulation_c"])): AmpacityRow(
            float(r["ampacity_a"]), r["source"]
        )
        for r in _rows("ampacity.csv")
    }
    return ConductorTable.of(rows, ampacities)


def _fixed() -> FixedTable:
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
        for r in _rows("fixed_pieces.csv")
    )
    fuses = {
        (r["style"], float(r["rating_a"])): float(r["cold_milliohm"]) / 1000
        for r in _rows("fuses.csv")
    }
    return FixedTable(rows, fuses)


def _limit_sets() -> dict[str, LimitSet]:
    single: dict[str, dict[str, float]] = {}
    for r in _rows("single_limits.csv"):
        single.setdefault(r["set"], {})[r["kind"]] = float(r["volts"])
    sets: dict[str, LimitSet] = {}
    for r in _rows("limit_sets.csv"):
        volts = (float(r[c]) if r[c] else None for c in ("feed_v", "return_v", "round_trip_v"))
        rule = LimitRule(
            duty=None if r["duty"] == "any" else r["duty"],  # type: ignore[arg-type]
            critical={"yes": True, "no": False, "any": None}[r["critical"]],
            ceilings=Ceilings(*volts),
            note=r["note"],
        )
        held = sets.get(r["set"])
        first = held or LimitSet(r["set"], r["name"], r["why"], (), single.get(r["set"], {}))
        sets[r["set"]] = replace(first, rules=(*first.rules, rule))
    return sets
