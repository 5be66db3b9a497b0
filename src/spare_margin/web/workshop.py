"""The workshop's own settings and tables, as this request is to use them."""

from functools import lru_cache
from typing import Any

from flask import g

from spare_margin.core.meters import Meter
from spare_margin.core.new_craft import new_craft
from spare_margin.core.tables import Tables
from spare_margin.data.shelves import tables_with
from spare_margin.exchange.units import Units
from spare_margin.store import workshop as store

from .connection import connection

DEFAULT_METER = "Workshop multimeter"


def own_rows() -> dict[str, dict[str, dict[str, str]]]:
    """The workshop's own rows by shelf and key."""
    if "own_rows" not in g:
        g.own_rows = store.own_rows(connection())
    held: dict[str, dict[str, dict[str, str]]] = g.own_rows
    return held


def tables() -> Tables:
    """The shipped tables with the workshop's own rows among them."""
    if "tables" not in g:
        g.tables = _tables_with(_frozen(own_rows()))
    held: Tables = g.tables
    return held


def forget() -> None:
    """Read the workshop's rows and settings afresh: something was changed in this request."""
    for name in ("own_rows", "tables", "settings"):
        g.pop(name, None)


def settings() -> dict[str, str]:
    """Every setting that was ever set."""
    if "settings" not in g:
        g.settings = store.settings(connection())
    held: dict[str, str] = g.settings
    return held


def units() -> Units:
    """The units and words in which this workshop works."""
    said: dict[str, Any] = settings()
    keys = ("length", "size", "temperature", "volts", "back_word")
    return Units(
        **{key: said[key] for key in keys if key in said}, comma=said.get("comma") == "yes"
    )


def meter() -> Meter:
    """The meter with which volts are read here."""
    held = tables().meters
    return held.get(settings().get("meter", DEFAULT_METER)) or held[DEFAULT_METER]


Frozen = tuple[tuple[str, tuple[tuple[str, tuple[tuple[str, str], ...]], ...]], ...]


def _frozen(rows: dict[str, dict[str, dict[str, str]]]) -> Frozen:
    return tuple(
        (shelf, tuple((key, tuple(cells.items())) for key, cells in own.items()))
        for shelf, own in rows.items()
    )


@lru_cache(maxsize=4)
def _tables_with(rows: Frozen) -> Tables:
    return tables_with({shelf: {key: dict(c) for key, c in own} for shelf, own in rows})


EMPTY_CRAFT = new_craft("other", 12.0, "none", "none", clamps=False)
"""A craft without a run, for lines that stand on a shelf by themselves."""
