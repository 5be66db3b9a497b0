"""The charging path: a second source inside a craft, and the battery as what it feeds."""

from collections.abc import Iterable
from dataclasses import replace
from typing import Literal

from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import (
    OFF_OHM,
    Craft,
    FixedPiece,
    Load,
    Scenario,
    Source,
    SourceState,
    TestPoint,
)

from .ids import NewIds
from .new_craft import ENGINE_C, ENGINE_KINDS

ChargerKind = Literal["generator", "charger", "panel"]
OHM_AT_12V: dict[ChargerKind, float] = {"generator": 0.02, "charger": 0.02, "panel": 0.5}
"""Inner resistance to start from; it gives way to what is read at the source's posts."""


def with_charger(
    craft: Craft, kind: ChargerKind, name: str, volts: float, also: Iterable[str] = ()
) -> tuple[Craft, str]:
    """The craft with a source that charges its battery, and the id of the run that is.

    The way between the two is a stretch nobody has drawn, out and back. What the battery takes is a load of
    its own, at its posts. In the craft's states so far the new source is off; a new one has it on, with
    every load but those that run for seconds, and the battery giving nothing; where a generator charges,
    the engine runs.

    Args:
        volts: what it holds at its posts without load.
        also: ids that are taken in other wirings of the job.
        kind: what charges.

    Raises:
        JobError: a source of that name is there.
    """
    if name.casefold() in {s.name.casefold() for s in craft.sources}:
        raise JobError("name", f"{name} is there already", "another name")
    ids = NewIds(craft, {*also, *(s.id for s in craft.sources)})
    battery = craft.sources[0]
    key, load_id = ids.named(name), ids.named(f"{battery.name} charging")
    live, back = ids.next("p"), ids.next("p")
    source = Source(
        id=key, name=name, live=live, back=back, open_circuit_v=volts,
        internal_ohm=OHM_AT_12V[kind] * craft.nominal_v / 12.0,
    )  # fmt: skip
    taking = Load(
        id=load_id, start=battery.live, end=battery.back, name=f"{battery.name}, charging",
        duty="charging",
    )  # fmt: skip
    ways = (
        FixedPiece(id=ids.next("u"), start=live, end=battery.live, side="feed", kind="unknown"),
        FixedPiece(id=ids.next("u"), start=battery.back, end=back, side="return", kind="unknown"),
    )
    off = SourceState(internal_ohm=OFF_OHM)
    before = tuple(replace(s, sources={**s.sources, key: off}) for s in craft.scenarios)
    first = craft.scenarios[0]
    engine = kind == "generator" and craft.kind in ENGINE_KINDS
    charging = Scenario(
        id=ids.named(f"charging {name}"), name=f"{name} charging, all on",
        on=frozenset(x.id for x in (*craft.loads, taking) if x.duty != "short_time"),
        sources={battery.id: off}, ambient_c=first.ambient_c,
        engine_c=ENGINE_C if engine else None, temperature_model=first.temperature_model,
    )  # fmt: skip
    points = (
        TestPoint(id=live, name=f"{name} +"), TestPoint(id=back, name=f"{name} \u2212"),
    )  # fmt: skip
    return (
        replace(
            craft, points=(*craft.points, *points), sources=(*craft.sources, source),
            pieces=(*craft.pieces, *ways), loads=(*craft.loads, taking),
            scenarios=(*before, charging),
        ),
        load_id,
    )  # fmt: skip
