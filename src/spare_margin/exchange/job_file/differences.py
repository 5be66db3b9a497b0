"""A revision of a wiring in a job file as what differs from another one: a job of many edits stays small.

Nodes, sources, elements and scenarios are lists of parts with ids. What is new or otherwise stands in the
list; what is no more stands in `gone`; where parts do not stand as in the other wiring with the new
ones behind, `order` names all of them.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any, TypeVar

from spare_margin.core.errors import JobError
from spare_margin.core.model import pieces as core

from .drawn import PartList, WiringChanges
from .elements import core_element, named

LISTS = ("nodes", "sources", "elements", "scenarios")
Document = dict[str, Any]
Part = TypeVar("Part", bound=Any)


def changes_document(base: Document, now: Document, base_id: str) -> Document | None:
    """What differs in one wiring's document from another's; None where most of it does."""
    out: Document = {"from": base_id}
    if now["reference"] != base["reference"]:
        out["reference"] = now["reference"]
    gone: dict[str, list[str]] = {}
    order: dict[str, list[str]] = {}
    told = 0
    for name in LISTS:
        was = {part["id"]: part for part in base[name]}
        ids = [part["id"] for part in now[name]]
        changed = [part for part in now[name] if was.get(part["id"]) != part]
        left = [key for key in was if key not in set(ids)]
        told += len(changed) + len(left)
        if changed:
            out[name] = changed
        if left:
            gone[name] = left
        if ids != _in_order(was, left, ids):
            order[name] = ids
    if told * 2 > sum(len(now[name]) for name in LISTS):
        return None
    return out | ({"gone": gone} if gone else {}) | ({"order": order} if order else {})


def _in_order(was: Mapping[str, Any], left: Sequence[str], ids: Sequence[str]) -> list[str]:
    """The order in which parts stand where nobody says another."""
    away = set(left)
    return [*(key for key in was if key not in away), *(key for key in ids if key not in was)]


def changed_craft(base: core.Craft, changes: WiringChanges) -> core.Craft:
    """The wiring that these changes make of another. JobError (path: within the changes)."""
    elements: dict[str, Any] = {e.id: e for e in (*base.pieces, *base.loads)}
    made = _merged("elements", elements, changes, core_element)
    return replace(
        base,
        reference=changes.reference or base.reference,
        points=_merged("nodes", {p.id: p for p in base.points}, changes),
        sources=_merged("sources", {s.id: s for s in base.sources}, changes, named),
        pieces=tuple(e for e in made if not isinstance(e, core.Load)),
        loads=tuple(e for e in made if isinstance(e, core.Load)),
        scenarios=_merged("scenarios", {s.id: s for s in base.scenarios}, changes, named),
    )


def _merged(
    name: PartList,
    was: Mapping[str, Part],
    changes: WiringChanges,
    make: Callable[[Any], Part] = lambda part: part,
) -> tuple[Part, ...]:
    gone = changes.gone.get(name, [])
    for i, key in enumerate(gone):
        if key not in was:
            raise JobError(f"gone.{name}[{i}]", f"there is no {key} to be gone", "an id there")
    parts = {key: part for key, part in was.items() if key not in set(gone)}
    given = getattr(changes, name)
    if len({each.id for each in given}) < len(given):
        raise JobError(name, "an id stands twice", "one each")
    parts |= {each.id: make(each) for each in given}
    order = changes.order.get(name)
    if order is None:
        return tuple(parts.values())
    if len(order) != len(parts) or set(order) != set(parts):
        raise JobError(f"order.{name}", "does not name every part once", "all ids, in order")
    return tuple(parts[key] for key in order)
