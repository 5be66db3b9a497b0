"""One element, source or scenario of a craft: from its part of a job file, and back."""

from collections.abc import Iterable
from typing import Any

from pydantic import ValidationError

from spare_margin.core.circuit.soundness import resistance_trouble
from spare_margin.core.errors import JobError
from spare_margin.core.model import pieces as core
from spare_margin.core.model.tables import Tables
from spare_margin.exchange.job_file.drawn import (
    ELEMENT,
    AnyElement,
    Conductor,
    Load,
    Node,
    Scenario,
    Source,
    UnknownStretch,
)
from spare_margin.exchange.job_file.plain_words import plain_errors

LOAD_NEEDS: dict[core.LoadLaw, tuple[str, ...]] = {
    "constant_current": ("current_a",),
    "constant_resistance": ("power_w", "rated_v"),
    "constant_power": ("power_w",),
    "filament": ("power_w", "rated_v"),
}

CoreElement = core.Conductor | core.FixedPiece | core.Load


def read_element(document: dict[str, Any], tables: Tables) -> CoreElement:
    """One element from its part of a job file document. JobError names the key that is wrong."""
    try:
        model = ELEMENT.validate_python(document)
    except ValidationError as invalid:
        raise plain_errors(invalid, document)[0] from None
    element = core_element(model)
    troubles = (
        list(load_troubles(model))
        if isinstance(model, Load)
        else [resistance_trouble(element, tables)]  # type: ignore[arg-type]
    )
    for trouble in filter(None, troubles):
        key = trouble.path.removeprefix(f"elements.{element.id}").lstrip(".")
        raise JobError(key, trouble.problem, trouble.accepted)
    return element


def element_document(element: CoreElement) -> dict[str, Any]:
    """One element's part of a job file document."""
    return _load(element) if isinstance(element, core.Load) else _piece(element)


def read_source(document: dict[str, Any], tables: Tables) -> core.Source:
    """One source from its part of a job file document. JobError names the key that is wrong."""
    try:
        return core.Source(**Source.model_validate(document).model_dump())
    except ValidationError as invalid:
        raise plain_errors(invalid, document)[0] from None


def source_document(source: core.Source) -> dict[str, Any]:
    """One source's part of a job file document."""
    return {
        "id": source.id,
        "name": source.name,
        "live": source.live,
        "return": source.back,
        "open_circuit_v": source.open_circuit_v,
        "internal_ohm": source.internal_ohm,
        **({} if source.battery == "none" else {"battery": source.battery}),
        **without_empty(capacity_ah=source.capacity_ah),
    }


def source_of(model: Source) -> core.Source:
    """The core's source for one of a job file."""
    return core.Source(**{**model.model_dump(), "name": model.name or model.id})


def point_of(model: Node) -> core.TestPoint:
    """The core's test point for one of a job file."""
    return core.TestPoint(id=model.id, name=model.name, access=model.access)


def scenario_of(model: Scenario) -> core.Scenario:
    """The core's scenario for one of a job file."""
    return core.Scenario(
        id=model.id,
        name=model.name or model.id,
        on=frozenset(model.on),
        sources={
            key: core.SourceState(state.open_circuit_v, state.internal_ohm)
            for key, state in model.sources.items()
        },
        ambient_c=model.ambient_c,
        temperature_model=model.temperature_model,
        starting=frozenset(model.starting),
        engine_c=model.engine_c,
        contacts=dict(model.contacts),
    )


def scenario_document(s: core.Scenario, craft: core.Craft) -> dict[str, Any]:
    """One scenario's part of a job file document."""
    starting = [load.id for load in craft.loads if load.id in s.starting]
    return {
        "id": s.id,
        "name": s.name,
        "sources": {
            key: without_empty(open_circuit_v=v.open_circuit_v, internal_ohm=v.internal_ohm)
            for key, v in s.sources.items()
        },
        "on": [load.id for load in craft.loads if load.id in s.on],
        "ambient_c": s.ambient_c,
        "temperature_model": s.temperature_model,
        **without_empty(
            starting=starting or None, engine_c=s.engine_c, contacts=dict(s.contacts) or None
        ),
    }


def core_element(element: AnyElement) -> CoreElement:
    """The core's element for one of a job file."""
    given = element.model_dump(exclude={"kind", "size", "side"}, exclude_none=True)
    if isinstance(element, Load):
        ohm = given.pop("resistance_ohm", None)
        return core.Load(**{**given, "name": element.name or element.id, "load_ohm": ohm})
    if isinstance(element, Conductor):
        size = core.Size(**element.size.model_dump()) if element.size else None
        return core.Conductor(**given, side=element.side, size=size)
    if isinstance(element, UnknownStretch):
        guess = given.pop("guess_ohm", None)
        given.setdefault("resistance_ohm", guess)
    return core.FixedPiece(**given, side=element.side, kind=element.kind)


def load_troubles(load: Load) -> Iterable[JobError]:
    """What a load lacks to say what it draws."""
    if load.resistance_ohm is not None or load.behaviour is None:
        return
    for key in LOAD_NEEDS[load.behaviour]:
        if getattr(load, key) is None:
            needs = " and ".join(LOAD_NEEDS[load.behaviour])
            yield JobError(
                f"elements.{load.id}.{key}", "is missing", f"{load.behaviour} needs {needs}"
            )


def _piece(piece: core.Conductor | core.FixedPiece) -> dict[str, Any]:
    common = without_empty(
        id=piece.id,
        name=piece.name,
        start=piece.start,
        end=piece.end,
        side=piece.side,
        resistance_ohm=piece.resistance_ohm,
        open=piece.open or None,
        repair=piece.repair,
        pinned_v=piece.pinned_v,
    )
    common["from"], common["to"] = common.pop("start"), common.pop("end")
    if isinstance(piece, core.FixedPiece) and piece.kind == "unknown":
        guess = common.pop("resistance_ohm", None)
        return {**common, "kind": "unknown", **without_empty(guess_ohm=guess)}
    if isinstance(piece, core.FixedPiece):
        return {
            **common,
            "kind": piece.kind,
            **without_empty(style=piece.style, rating_a=piece.rating_a),
        }
    size = piece.size and {
        "system": piece.size.system,
        "value": piece.size.value,
        "finish": piece.size.finish,
    }
    return {
        **common,
        "kind": "conductor",
        **without_empty(
            length_m=piece.length_m or None,
            size=size,
            ohm_per_m=piece.ohm_per_m,
            insulation_c=piece.insulation_c,
            temperature_c=piece.temperature_c,
            engine_space=piece.engine_space or None,
            bundle=piece.bundle if piece.bundle != 1 else None,
            unsupported=piece.unsupported or None,
            cable=piece.cable,
        ),
    }


def _load(load: core.Load) -> dict[str, Any]:
    return {
        "id": load.id,
        "name": load.name,
        "from": load.start,
        "to": load.end,
        "kind": "load",
        **without_empty(
            behaviour=load.behaviour,
            current_a=load.current_a,
            resistance_ohm=load.load_ohm,
            power_w=load.power_w,
            rated_v=load.rated_v,
            start_multiple=load.start_multiple,
            least_v=load.least_v,
            duty=load.duty,
            critical=load.critical or None,
        ),
    }


def without_empty(**values: Any) -> dict[str, Any]:
    """These keys, less those with nothing to say."""
    return {key: value for key, value in values.items() if value is not None and value != ""}
