"""A craft of which only one load is known: what its run is made of is found out by measuring it."""

from dataclasses import replace
from typing import Literal

from spare_margin.core.model.pieces import (
    Battery,
    Craft,
    CraftKind,
    Duty,
    FixedPiece,
    Load,
    Scenario,
    TestPoint,
)

from .new_craft import USUAL_POLARITY, new_craft

LoadKind = Literal["pump", "motor", "lamp", "heater", "winch", "control", "charger", "other"]
DUTIES: dict[LoadKind, Duty] = {
    "pump": "ordinary", "motor": "ordinary", "lamp": "ordinary", "heater": "ordinary",
    "winch": "short_time", "control": "control_supply", "charger": "charging", "other": "ordinary",
}  # fmt: skip
"""What a kind of load is held to."""
NOW = "now"


def one_load(kind: CraftKind, nominal_v: float, battery: Battery, load: Load) -> Craft:
    """A battery, a load, and between them two stretches that nobody has drawn.

    `load` without behaviour where nobody knows what it draws. Its id and terminals are given here. The only
    scenario is the craft as it stands; its battery's figures are typical and give way to what is read.

    Args:
        kind: what craft it is.
        nominal_v: the craft's nominal voltage (V).
    """
    bare = new_craft(kind, nominal_v, USUAL_POLARITY[kind], battery, clamps=False)
    source, first = bare.sources[0], bare.scenarios[0]
    ends = (
        TestPoint(id="feed-terminal", name=f"{load.name} +"),
        TestPoint(id="return-terminal", name=f"{load.name} \u2212"),
    )
    pieces = (
        FixedPiece(id="u1", start=source.live, end=ends[0].id, side="feed", kind="unknown"),
        FixedPiece(id="u2", start=ends[1].id, end=source.back, side="return", kind="unknown"),
    )
    made = replace(load, id="load", start=ends[0].id, end=ends[1].id)
    now = Scenario(
        id=NOW, name="As it stands now", on=frozenset({made.id}), sources=first.sources,
        ambient_c=first.ambient_c, temperature_model="self_heating",
    )  # fmt: skip
    return Craft(
        kind=kind, nominal_v=nominal_v, polarity=bare.polarity, reference=bare.reference,
        points=(*bare.points, *ends), sources=(source,), pieces=pieces, loads=(made,),
        scenarios=(now,),
    )  # fmt: skip
