"""In which states of a craft its loads are on.

A craft is used rested, charging, tired; a load that runs for seconds is on in a state of its own, and what
stands for a charging path only while the craft is charged. While an engine is started there runs what must
keep running, and nothing else; the starter itself takes the volts down, through the battery's own
resistance.
"""

from collections.abc import Iterable
from dataclasses import replace

from spare_margin.core.model.pieces import Craft, Load, Scenario, SourceState
from spare_margin.core.model.starting import ENGINE_START, starts_engine

from .ids import NewIds

CHARGING = "charging"
"""The id of the state in which a craft is charged, of those that it is drawn up with."""


def with_states_of(craft: Craft, new: Iterable[str], ids: NewIds) -> Craft:
    """The craft with new loads on where they are used; a short-time load has a state of its own.

    Args:
        ids: where new ids come from.
    """
    loads = [craft.load(key) for key in new]
    for load in loads:
        if load.duty != "short_time":
            craft = _on(craft, load.id, [s.id for s in craft.scenarios if _used_in(craft, s, load)])
    for load in loads:
        if load.duty == "short_time":
            craft = _with_own(craft, load, ids)
    return craft


def keeps_running(load: Load) -> bool:
    """Whether a load must run whatever else happens: ignition, instruments, navigation."""
    return load.critical or load.duty == "control_supply"


def _used_in(craft: Craft, scenario: Scenario, load: Load) -> bool:
    if load.duty == "charging" and any(s.id == CHARGING for s in craft.scenarios):
        return scenario.id == CHARGING
    return keeps_running(load) or not starts_engine(craft, scenario)


def _on(craft: Craft, load: str, where: Iterable[str]) -> Craft:
    at = set(where)
    return replace(
        craft,
        scenarios=tuple(replace(s, on=s.on | {load}) if s.id in at else s for s in craft.scenarios),
    )


def _with_own(craft: Craft, load: Load, ids: NewIds) -> Craft:
    """The craft with the state in which a short-time load is on."""
    first = craft.scenarios[0]
    if not any(s.on for s in craft.scenarios) and len(craft.scenarios) == 1:
        return _on(craft, load.id, [first.id])
    start = next((s for s in craft.scenarios if s.id == ENGINE_START), None)
    if load.is_starter and start is not None:
        # The battery as it rests: what it comes down to is what the starter takes.
        sources = {
            key: replace(state, open_circuit_v=first.sources.get(key, SourceState()).open_circuit_v)
            for key, state in start.sources.items()
        }
        own = replace(start, on=start.on | {load.id}, sources=sources)
        return replace(
            craft, scenarios=tuple(own if s.id == start.id else s for s in craft.scenarios)
        )
    used = frozenset(
        x.id
        for x in craft.loads
        if x.id in first.on and x.duty != "short_time" and (keeps_running(x) or not load.is_starter)
    )
    own = replace(
        first, id=ids.named(f"{load.name} on"), name=f"{load.name} on",
        on=used | {load.id}, starting=frozenset(), contacts={},
    )  # fmt: skip
    return replace(craft, scenarios=(*craft.scenarios, own))
