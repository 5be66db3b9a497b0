"""Ids for what is drawn: short, and not taken yet."""

import re
from collections.abc import Iterable

from spare_margin.core.model.pieces import (
    Craft,
)

PREFIXES = {
    "conductor": "w", "joint": "j", "fuse": "f", "breaker": "b", "switch": "s",
    "relay_contact": "k", "body_return": "g", "resistor": "r", "unknown": "u",
}  # fmt: skip


def ids_of(craft: Craft) -> set[str]:
    """Every id of a craft's points, pieces, loads and scenarios."""
    return {x.id for x in (*craft.points, *craft.pieces, *craft.loads, *craft.scenarios)}


class NewIds:
    """Short ids that a craft does not have yet: w1, j2, p3 ...

    `also` are ids that are taken elsewhere, as by another stage of the same job.
    """

    def __init__(self, craft: Craft, also: Iterable[str] = ()) -> None:
        self.taken = ids_of(craft) | set(also)

    def next(self, prefix: str) -> str:
        """The first free id with this prefix."""
        number = 1
        while f"{prefix}{number}" in self.taken:
            number += 1
        self.taken.add(f"{prefix}{number}")
        return f"{prefix}{number}"

    def named(self, name: str) -> str:
        """An id after a person's name for the thing, as far as its letters allow."""
        plain = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40]
        if not plain or plain in self.taken:
            return self.next(f"{plain}-" if plain else "x")
        self.taken.add(plain)
        return plain
