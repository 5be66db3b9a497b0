"""A typed edit of one element, turned into a changed craft."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece, Load, Source
from spare_margin.core.model.tables import Tables
from spare_margin.exchange.job_file.elements import (
    element_document,
    element_keys,
    read_element,
    read_source,
)
from spare_margin.exchange.job_file.records import document_of
from spare_margin.exchange.quantities import Kind, understand, understand_size

Document = dict[str, Any]

# Field of the form -> (key of the job file, what kind of quantity it is).
QUANTITIES: dict[str, tuple[str, Kind]] = {
    "length": ("length_m", "metres"),
    "resistance": ("resistance_ohm", "ohms"),
    "rating": ("rating_a", "amperes"),
    "insulation": ("insulation_c", "celsius"),
    "pinned": ("pinned_v", "volts"),
    "current": ("current_a", "amperes"),
    "power": ("power_w", "watts"),
    "rated": ("rated_v", "volts"),
    "least": ("least_v", "volts"),
    "start": ("start_multiple", "times"),
    "open_circuit": ("open_circuit_v", "volts"),
    "internal": ("internal_ohm", "ohms"),
}
FIELD_OF_KEY = {key: field for field, (key, _) in QUANTITIES.items()}


def edited(craft: Craft, element_id: str, given: Mapping[str, Any], tables: Tables) -> Craft:
    """The craft with one element changed as typed: fields of the form by name, with their texts.

    Raises JobError naming the field of the edit that is wrong, or the element that is not there.
    """
    for group in ("pieces", "loads", "sources"):
        elements: tuple[Any, ...] = getattr(craft, group)
        for i, element in enumerate(elements):
            if element.id == element_id:
                made = _changed(element, given, tables)
                changed: dict[str, Any] = {group: (*elements[:i], made, *elements[i + 1 :])}
                return replace(craft, **changed)
    raise JobError("element", f"there is no {element_id}", "an element of the job")


def _changed(element: Any, given: Mapping[str, Any], tables: Tables) -> Any:
    read: Callable[[Document, Tables], Any]
    if isinstance(element, Source):
        document, read = document_of(element), read_source
    else:
        document, read = element_document(element), read_element
    kind = given.get("kind", document.get("kind"))
    _apply(document, given, element, tables)
    if kind != document.get("kind"):
        document = {k: v for k, v in document.items() if k in element_keys(kind or "")} | {
            "kind": kind
        }
        document.pop("style", None)
    if kind == "conductor" and "size" in document:
        document.pop("ohm_per_m", None)
    try:
        return read({k: v for k, v in document.items() if v is not None}, tables)
    except JobError as wrong:
        head = wrong.path.split(".")[0]
        raise JobError(
            FIELD_OF_KEY.get(head, head) or _missing(kind), wrong.problem, wrong.accepted
        ) from None


def _missing(kind: str | None) -> str:
    """The field to point at when a piece has nothing that gives it a resistance."""
    return {"conductor": "size", "fuse": "rating", "breaker": "rating"}.get(
        kind or "", "resistance"
    )


def _apply(document: Document, given: Mapping[str, Any], element: Any, tables: Tables) -> None:
    for field, value in given.items():
        if field in QUANTITIES:
            key, quantity = QUANTITIES[field]
            text = value.strip()
            document[key] = understand(text, quantity, field).value if text else None
        elif field == "bundle":
            document["bundle"] = _count(value, field)
        elif field == "size":
            document["size"] = _size(value, element, tables) if value.strip() else None
        elif field == "repair":
            document["repair"] = None if value == "none" else value
        elif field == "style":
            document["style"] = value.strip() or None
        elif field != "kind":
            document[field] = value.strip() if isinstance(value, str) else value


def _count(text: str, field: str) -> int:
    """A typed number of conductors; nothing typed is one that lies alone."""
    value = understand(text, "times", field).value if text.strip() else 1.0
    if value is None or value != int(value):
        raise JobError(field, "is no whole number", "loaded conductors lying together, as 4")
    return int(value)


def _size(text: str, element: Any, tables: Tables) -> dict[str, str]:
    """A typed size keeps the wire's own system and finish where they are not said and exist."""
    old = element.size if isinstance(element, Conductor) else None
    system, finish = (old.system, old.finish) if old else ("mm2", "plain")
    size = understand_size(text, "size", system, finish)
    rows = tables.conductors.rows
    if size not in rows and replace(size, finish="plain") in rows:
        size = replace(size, finish="plain")
    return {"system": size.system, "value": size.value, "finish": size.finish}


def carried_over(craft: Craft, before: Craft, after: Craft) -> Craft:
    """`craft` with a correction carried over: what still stood as it was before stands as after."""
    old = {e.id: e for e in _elements(before)}
    new = {e.id: e for e in _elements(after)}

    def pick(element: Any) -> Any:
        return new[element.id] if old.get(element.id) == element else element

    return replace(
        craft,
        pieces=tuple(map(pick, craft.pieces)),
        loads=tuple(map(pick, craft.loads)),
        sources=tuple(map(pick, craft.sources)),
    )


def _elements(craft: Craft) -> list[Conductor | FixedPiece | Load | Source]:
    return [*craft.pieces, *craft.loads, *craft.sources]
