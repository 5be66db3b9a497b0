"""Scenarios as typed: kept, copied, taken out, on every stage there is."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Literal

from spare_margin.core.edit.ids import NewIds
from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import (
    CONTACTS,
    ContactState,
    Craft,
    Scenario,
    SourceState,
    TemperatureModel,
)
from spare_margin.core.model.values import AsTyped, Called
from spare_margin.exchange.quantities import Kind, understand
from spare_margin.service.job.desk import Act, Acted, Desk, Edited
from spare_margin.service.job.revising import taken_ids
from spare_margin.wording.language.units import number

from .words import one_line

BOUNDS: dict[Kind, tuple[float, float]] = {
    "celsius": (-60, 250),
    "volts": (0, 1000),
    "ohms": (0, 1e6),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceTyped:
    """What a scenario changes in a source, as typed; empty keeps the source's own."""

    id: str
    open_circuit: AsTyped = ""
    internal: AsTyped = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ScenarioTyped:
    """A scenario as typed. `ambient` and `engine` are temperatures; an empty engine is as ambient."""

    name: Called
    on: tuple[str, ...]
    starting: tuple[str, ...] = ()
    ambient: AsTyped = "20"
    engine: AsTyped = ""
    temperature_model: TemperatureModel
    sources: tuple[SourceTyped, ...] = ()
    contacts: Mapping[str, ContactState] = field(default_factory=dict)


def change_scenario(
    desk: Desk,
    action: Literal["keep", "copy", "remove"],
    scenario_id: str | None,
    typed: ScenarioTyped | None,
) -> tuple[Edited, Scenario]:
    """Keep a scenario (a new one without an id), copy it, or take it out; the one that was meant.

    What was made is the scenario that is left to be shown. One in which something was read is not taken
    out. JobError names the field that is wrong.
    """
    craft = next(iter(desk.snapshot.heads.values())).craft
    held = next((s for s in craft.scenarios if s.id == scenario_id), None)
    if scenario_id is not None and held is None:
        raise JobError("id", f"there is no {scenario_id}", "a scenario of the job")
    if held is None and action != "keep":
        raise JobError("id", "is missing", "a scenario of the job")
    ids = NewIds(craft, taken_ids(desk.snapshot))
    match action, held:
        case "remove", Scenario():
            act, meant = _removal(desk, craft, held), held
        case "copy", Scenario():
            made = ids.named(f"{held.name} 2")
            meant = replace(held, id=made, name=f"{held.name}, again")
            act = _putting(meant)
        case _:
            if typed is None:
                raise JobError("form", "is missing", "a scenario")
            meant = _made(typed, held, ids, craft)
            act = _putting(meant)
    return desk.everywhere(act, "scenario"), meant


def _removal(desk: Desk, craft: Craft, held: Scenario) -> Act:
    if len(craft.scenarios) == 1:
        raise JobError("id", "it is the only scenario", "at least one scenario")
    snapshot = desk.snapshot
    if held.id in {r.scenario for r in snapshot.readings} | {m.scenario for m in snapshot.moments}:
        raise JobError("id", "readings were taken in it", "a scenario without readings")

    def act(each: Craft) -> Acted:
        left = tuple(s for s in each.scenarios if s.id != held.id)
        return Acted(replace(each, scenarios=left), (left[0].id,))

    return act


def _putting(made: Scenario) -> Act:
    def act(craft: Craft) -> Acted:
        loads = {load.id for load in craft.loads}
        fitting = replace(made, on=made.on & loads, starting=made.starting & loads)
        held = {s.id: s for s in craft.scenarios} | {made.id: fitting}
        return Acted(replace(craft, scenarios=tuple(held.values())), (made.id,))

    return act


def _made(typed: ScenarioTyped, held: Scenario | None, ids: NewIds, craft: Craft) -> Scenario:
    name = one_line(typed.name)
    if not name:
        raise JobError("name", "is empty", "what the scenario is called")
    loads = {load.id for load in craft.loads}
    for key, named in (("on", typed.on), ("starting", typed.starting)):
        for each in named:
            if each not in loads:
                raise JobError(key, f"there is no load {each}", "ids of loads")
    ambient = _figure(typed.ambient, "celsius", "ambient")
    return Scenario(
        id=held.id if held else ids.named(name),
        name=name[:120],
        on=frozenset(typed.on),
        starting=frozenset(typed.starting) & frozenset(typed.on),
        ambient_c=20.0 if ambient is None else ambient,
        engine_c=_figure(typed.engine, "celsius", "engine"),
        temperature_model=typed.temperature_model,
        sources={s.id: _state(s, craft) for s in typed.sources if s.open_circuit or s.internal},
        contacts=_contacts(typed, craft),
    )


def _contacts(typed: ScenarioTyped, craft: Craft) -> dict[str, ContactState]:
    known = {p.id for p in craft.pieces if p.kind in CONTACTS}
    for key in typed.contacts:
        if key not in known:
            raise JobError("contacts", f"there is no contact {key}", "a switch, breaker or relay")
    return dict(typed.contacts)


def _state(typed: SourceTyped, craft: Craft) -> SourceState:
    if typed.id not in {s.id for s in craft.sources}:
        raise JobError("sources", f"there is no source {typed.id}", "a source of the craft")
    return SourceState(
        _figure(typed.open_circuit, "volts", "open_circuit"),
        _figure(typed.internal, "ohms", "internal"),
    )


def _figure(text: str, kind: Kind, key: str) -> float | None:
    if not text.strip():
        return None
    value = understand(text, kind, key).value or 0.0
    low, high = BOUNDS[kind]
    if not low <= value <= high or (kind == "volts" and not value):
        raise JobError(
            key, f"{number(value)} is out of bounds", f"{number(low)} up to {number(high)}"
        )
    return value
