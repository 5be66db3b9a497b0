"""What the workshop set for itself: its tables, units, meter, as one value for one request."""

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from threading import Lock
from typing import Any

from cachetools import LRUCache, cached

from spare_margin.core.edit.new_craft import new_craft
from spare_margin.core.errors import JobError
from spare_margin.core.lists.buying_list import REEL_M
from spare_margin.core.model.meters import Meter
from spare_margin.core.model.tables import Tables
from spare_margin.data.tables import tables_with
from spare_margin.exchange.quantities import understand
from spare_margin.store import workshop as store
from spare_margin.wording.language.units import Units, in_use

DEFAULT_METER = "Workshop multimeter"
CHOICES: Mapping[str, tuple[str, ...]] = {
    "length": ("m", "ft"),
    "size": ("mm2", "awg"),
    "temperature": ("C", "F"),
    "volts": ("V", "mV"),
    "comma": ("no", "yes"),
    "back_word": ("return", "ground", "earth", "negative"),
    "paper": ("a4", "letter"),
}
"""Settings that are one of a few, the default first."""
TEXTS: Mapping[str, int] = {
    "workshop": 120, "feed_colour": 40, "return_colour": 40, "currency": 8, "prices_of": 40,
    "hour_price": 12, "reel": 12,
}  # fmt: skip
"""Settings in a person's own words, and how long they may be."""
FIGURES = ("hour_price", "reel")
MOST_HOUR, MOST_REEL_M = 100_000.0, 5000.0
Rows = Mapping[str, Mapping[str, Mapping[str, str]]]
EMPTY_CRAFT = new_craft("other", 12.0, "none", "none", clamps=False)
"""A craft without a run, for lines that stand in a table by themselves."""


@dataclass(frozen=True)
class Workshop:
    """Own rows by table and key, and every setting that was ever set."""

    own_rows: Rows
    settings: Mapping[str, str]

    @cached_property
    def tables(self) -> Tables:
        """The shipped tables with the workshop's own rows among them."""
        return _tables(self.own_rows)

    @cached_property
    def units(self) -> Units:
        """The units and words in which this workshop works."""
        said: Mapping[str, Any] = self.settings
        keys = ("length", "size", "temperature", "volts", "back_word", "currency")
        return Units(
            **{key: said[key] for key in keys if key in said}, comma=said.get("comma") == "yes"
        )

    @cached_property
    def hour_price(self) -> float | None:
        """What an hour of work costs; None where nobody said."""
        said = self.settings.get("hour_price", "")
        return float(said) if said else None

    @cached_property
    def reel_m(self) -> float:
        """The length of the reels that wire is bought on (m)."""
        said = self.settings.get("reel", "")
        return understand(said, "metres", "reel").value or REEL_M if said else REEL_M

    @cached_property
    def meter(self) -> Meter:
        """The meter with which volts are read here."""
        held = self.tables.meters
        return held.get(self.settings.get("meter", DEFAULT_METER)) or held[DEFAULT_METER]


def checked_settings(said: Mapping[str, object], tables: Tables) -> dict[str, str]:
    """Settings as they may be kept. JobError names the one that is wrong."""
    out: dict[str, str] = {}
    for key, value in said.items():
        if not isinstance(value, str):
            raise JobError(key, "is no text", "a word in quotes")
        plain = " ".join(value.split())
        known = tuple(tables.meters) if key == "meter" else CHOICES.get(key)
        if known is None and key not in TEXTS:
            raise JobError(key, "is no setting", ", ".join([*CHOICES, *TEXTS, "meter"]))
        if known is not None and plain not in known:
            raise JobError(key, f"there is no {plain[:40]}", ", ".join(known))
        if key in TEXTS and len(plain) > TEXTS[key]:
            raise JobError(key, "is too long", f"up to {TEXTS[key]} letters")
        out[key] = _checked_figure(key, plain) if plain and key in FIGURES else plain
    return out


def _checked_figure(key: str, text: str) -> str:
    """A setting that is a figure, as it is kept: a price with a point, a length with its unit."""
    if key == "reel":
        metres = understand(text, "metres", key).value or 0.0
        if not 1 <= metres <= MOST_REEL_M:
            raise JobError(key, f"{text} is no reel", f"1 to {MOST_REEL_M:g} m")
        return text if text[-1].isalpha() else f"{text} {in_use().length}"
    value = understand(text, "times", key).value or 0.0
    if not 0 < value <= MOST_HOUR:
        raise JobError(key, f"{text} is no price of an hour", f"above 0 up to {MOST_HOUR:g}")
    return f"{value:g}"


def workshop(connection: sqlite3.Connection) -> Workshop:
    """The workshop as it is kept now."""
    return Workshop(store.own_rows(connection), store.settings(connection))


def _frozen(rows: Rows) -> tuple[object, ...]:
    return tuple(
        (table, tuple((key, tuple(cells.items())) for key, cells in own.items()))
        for table, own in rows.items()
    )


@cached(LRUCache(4), key=_frozen, lock=Lock())
def _tables(rows: Rows) -> Tables:
    """Tables are one and the same value as long as the workshop's rows are."""
    return tables_with(rows)
