"""Records as plain values: what documents are made of, by the names of their fields."""

from collections.abc import Collection, Mapping
from dataclasses import MISSING, fields
from functools import cache
from typing import Any

NO_OTHERS: Mapping[str, str] = {}
PLAIN = (str, float, int, bool, type(None))


def plain(
    record: Any, always: Collection[str] = (), keys: Mapping[str, str] = NO_OTHERS
) -> dict[str, Any]:
    """A record's fields by their names; what is as it is without a word is left out.

    `always` names fields that are written even so, `keys` gives other words for names of fields. Sets
    become sorted lists, tuples lists; numbers, texts and None stay.

    >>> from spare_margin.core.model.pieces import Scenario, TestPoint
    >>> plain(TestPoint(id="p", name="Plug")), plain(TestPoint(id="p"), ("access",), {"id": "key"})
    ({'id': 'p', 'name': 'Plug'}, {'key': 'p', 'access': 'open'})
    >>> plain(Scenario(id="day", on=frozenset({"pump", "fan"})))
    {'id': 'day', 'on': ['fan', 'pump']}
    """

    def made(value: Any) -> Any:
        kind = type(value)
        if kind in PLAIN:
            return value
        if kind is tuple:
            return [made(each) for each in value]
        if kind is frozenset:
            return sorted(value)
        if isinstance(value, Mapping):
            return {name: made(each) for name, each in value.items()}
        return plain(value, always, keys)

    out = {}
    of: type = type(record)
    for name, default in _fields(of):
        value = getattr(record, name)
        if value != default or name in always:
            out[keys.get(name, name)] = value if type(value) in PLAIN else made(value)
    return out


@cache
def _fields(kind: type) -> list[tuple[str, Any]]:
    """The fields of a record's class, and what each is without a word."""
    return [
        (f.name, f.default if f.default_factory is MISSING else f.default_factory())
        for f in fields(kind)
    ]
