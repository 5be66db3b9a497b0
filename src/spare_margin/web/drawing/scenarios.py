"""A typed scenario turned into a change of the craft."""

from dataclasses import replace

from spare_margin.core.edit.ids import NewIds
from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import (
    CONTACTS,
    ContactState,
    Craft,
    Scenario,
    SourceState,
    kind_of,
)
from spare_margin.exchange.quantities import Kind, understand
from spare_margin.service.job.revising import Act, taken_ids
from spare_margin.service.job.snapshot import JobSnapshot
from spare_margin.web.common.models import SourceStateForm
from spare_margin.web.drawing.models import ScenarioChange, ScenarioForm
from spare_margin.wording.language.units import number

BOUNDS: dict[Kind, tuple[float, float]] = {
    "celsius": (-60, 250),
    "volts": (0, 1000),
    "ohms": (0, 1e6),
}


def scenario_act(body: ScenarioChange, snapshot: JobSnapshot) -> tuple[Act, str, str]:
    """The change, the id of the scenario it leaves on screen, and a sentence about it.

    A scenario in which something was read is not taken out.
    """
    craft = next(iter(snapshot.heads.values())).craft
    read_in = {r.scenario for r in snapshot.readings} | {m.scenario for m in snapshot.moments}
    held = next((s for s in craft.scenarios if s.id == body.id), None)
    if body.id is not None and held is None:
        raise JobError("id", f"there is no {body.id}", "a scenario of the job")
    if body.action == "remove":
        return _removal(craft, held, read_in)
    ids = NewIds(craft, taken_ids(snapshot))
    if body.action == "copy":
        if held is None:
            raise JobError("id", "is missing", "a scenario of the job")
        made = replace(held, id=ids.named(f"{held.name} 2"), name=f"{held.name}, again")
    else:
        if body.form is None:
            raise JobError("form", "is missing", "a scenario")
        made = _made(body.form, held, ids, craft)
    return _putting(made), made.id, f"Scenario {made.name}"


def _removal(craft: Craft, held: Scenario | None, read_in: set[str]) -> tuple[Act, str, str]:
    if held is None:
        raise JobError("id", "is missing", "a scenario of the job")
    if len(craft.scenarios) == 1:
        raise JobError("id", "it is the only scenario", "at least one scenario")
    if held.id in read_in:
        raise JobError("id", "readings were taken in it", "a scenario without readings")
    left = next(s.id for s in craft.scenarios if s.id != held.id)

    def act(each: Craft) -> Craft:
        return replace(each, scenarios=tuple(s for s in each.scenarios if s.id != held.id))

    return act, left, f"Scenario {held.name} taken out"


def _putting(made: Scenario) -> Act:
    def act(craft: Craft) -> Craft:
        loads = {load.id for load in craft.loads}
        fitting = replace(made, on=made.on & loads, starting=made.starting & loads)
        if any(s.id == made.id for s in craft.scenarios):
            return replace(
                craft,
                scenarios=tuple(fitting if s.id == made.id else s for s in craft.scenarios),
            )
        return replace(craft, scenarios=(*craft.scenarios, fitting))

    return act


def _made(form: ScenarioForm, held: Scenario | None, ids: NewIds, craft: Craft) -> Scenario:
    name = " ".join(form.name.split())
    if not name:
        raise JobError("name", "is empty", "what the scenario is called")
    loads = {load.id for load in craft.loads}
    for field, named in (("on", form.on), ("starting", form.starting)):
        for each in named:
            if each not in loads:
                raise JobError(field, f"there is no load {each}", "ids of loads")
    ambient = _figure(form.ambient, "celsius", "ambient")
    return Scenario(
        id=held.id if held else ids.named(name),
        name=name[:120],
        on=frozenset(form.on),
        starting=frozenset(form.starting) & frozenset(form.on),
        ambient_c=20.0 if ambient is None else ambient,
        engine_c=_figure(form.engine, "celsius", "engine"),
        temperature_model=form.temperature_model,
        sources={s.id: _state(s, craft) for s in form.sources if s.open_circuit or s.internal},
        contacts=_contacts(form, craft),
    )


def _contacts(form: ScenarioForm, craft: Craft) -> dict[str, ContactState]:
    known = {p.id for p in craft.pieces if kind_of(p) in CONTACTS}
    for key in form.contacts:
        if key not in known:
            raise JobError("contacts", f"there is no contact {key}", "a switch, breaker or relay")
    return dict(form.contacts)


def _state(form: SourceStateForm, craft: Craft) -> SourceState:
    if form.id not in {s.id for s in craft.sources}:
        raise JobError("sources", f"there is no source {form.id}", "a source of the craft")
    return SourceState(
        _figure(form.open_circuit, "volts", "open_circuit"),
        _figure(form.internal, "ohms", "internal"),
    )


def _figure(text: str, kind: Kind, field: str) -> float | None:
    if not text.strip():
        return None
    value = understand(text, kind, field).value or 0.0
    low, high = BOUNDS[kind]
    if not low <= value <= high or (kind == "volts" and not value):
        raise JobError(
            field, f"{number(value)} is out of bounds", f"{number(low)} up to {number(high)}"
        )
    return value
