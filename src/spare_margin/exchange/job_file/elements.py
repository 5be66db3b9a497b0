"""One element, source or scenario of a craft: from its part of a job file, and back."""

import json
from collections.abc import Iterable
from dataclasses import fields, replace
from typing import Any, TypeVar

from pydantic import TypeAdapter, ValidationError

from spare_margin.core.circuit.soundness import resistance_trouble
from spare_margin.core.errors import JobError
from spare_margin.core.model import pieces as core
from spare_margin.core.model.tables import Tables

from .drawn import AnyElement, FixedPiece, Load, UnknownStretch
from .plain_words import plain_errors
from .records import STRICT, document_of, key_of

LOAD_NEEDS: dict[core.LoadLaw, tuple[str, ...]] = {
    "constant_current": ("current_a",),
    "constant_resistance": ("power_w", "rated_v"),
    "constant_power": ("power_w",),
    "filament": ("power_w", "rated_v"),
}
_ELEMENT: TypeAdapter[AnyElement] = TypeAdapter(AnyElement, config=STRICT)
_SOURCE: TypeAdapter[core.Source | None] = TypeAdapter(core.Source | None, config=STRICT)

Element = TypeVar("Element")
Named = TypeVar("Named", core.Load, core.Source, core.Scenario)
CoreElement = core.Conductor | core.FixedPiece | core.Load


def read_element(document: dict[str, Any], tables: Tables) -> CoreElement:
    """One element from its part of a job file document. JobError names the key that is wrong."""
    element = core_element(_read(_ELEMENT, document))
    troubles = (
        list(load_troubles(element))
        if isinstance(element, core.Load)
        else [resistance_trouble(element, tables)]
    )
    for trouble in filter(None, troubles):
        key = trouble.path.removeprefix(f"elements.{element.id}").lstrip(".")
        raise JobError(key, trouble.problem, trouble.accepted)
    return element


def read_source(document: dict[str, Any], tables: Tables) -> core.Source:
    """One source from its part of a job file document. JobError names the key that is wrong."""
    source: core.Source = _read(_SOURCE, document)
    return source


def _read(adapter: TypeAdapter[Any], document: dict[str, Any]) -> Any:
    try:
        return adapter.validate_json(json.dumps(document))
    except ValidationError as invalid:
        raise plain_errors(invalid, document)[0] from None


def element_document(element: CoreElement) -> dict[str, Any]:
    """One element's part of a job file document."""
    document = document_of(element)
    if element.kind == "unknown" and "resistance_ohm" in document:
        document["guess_ohm"] = document.pop("resistance_ohm")
    return document


def element_keys(kind: str) -> set[str]:
    """The keys that an element of this kind may have in a job file."""
    records: dict[str, type] = {
        "conductor": core.Conductor,
        "load": Load,
        "unknown": UnknownStretch,
    }
    return {key_of(f.name) for f in fields(records.get(kind, FixedPiece))}


def scenario_document(s: core.Scenario, craft: core.Craft) -> dict[str, Any]:
    """One scenario's part of a job file document; its loads stand in the order of the craft."""
    document = document_of(s)
    for key in ("on", "starting"):
        if key in document:
            document[key] = [load.id for load in craft.loads if load.id in document[key]]
    return document


def named(record: Named) -> Named:
    """A record that nobody gave a name is called by its id."""
    return record if record.name else replace(record, name=record.id)


def core_element(element: AnyElement) -> CoreElement:
    """The core's element for one of a job file."""
    if isinstance(element, Load):
        return named(_as(core.Load, element))
    if isinstance(element, UnknownStretch):
        known = element.resistance_ohm
        return core.FixedPiece(
            **_shared(core.Piece, element)
            | {"kind": "unknown", "resistance_ohm": element.guess_ohm if known is None else known}
        )
    return _as(core.FixedPiece, element) if isinstance(element, FixedPiece) else element


def _as(kind: type[Element], element: Any) -> Element:
    return kind(**_shared(kind, element))


def _shared(kind: type, element: Any) -> dict[str, Any]:
    return {f.name: getattr(element, f.name) for f in fields(kind)}


def load_troubles(load: core.Load) -> Iterable[JobError]:
    """What a load lacks to say what it draws."""
    if load.load_ohm is not None or load.behaviour is None:
        return
    for key in LOAD_NEEDS[load.behaviour]:
        if getattr(load, key) is None:
            needs = " and ".join(LOAD_NEEDS[load.behaviour])
            yield JobError(
                f"elements.{load.id}.{key}", "is missing", f"{load.behaviour} needs {needs}"
            )


def without_empty(**values: Any) -> dict[str, Any]:
    """These keys, less those with nothing to say."""
    return {key: value for key, value in values.items() if value is not None and value != ""}
