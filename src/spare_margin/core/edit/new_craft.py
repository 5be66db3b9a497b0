"""A craft from nothing: its battery, the posts' clamps, and the states it is usually in."""

from collections.abc import Mapping
from dataclasses import replace

from spare_margin.core.model.pieces import (
    Battery,
    Craft,
    CraftKind,
    FixedPiece,
    Polarity,
    Scenario,
    Source,
    SourceState,
    TestPoint,
)

OHM_AT_12V_100AH: dict[Battery, float] = {"flooded": 5e-3, "agm": 3.5e-3, "lithium": 3e-3}
"""Internal resistance to start from, of a 12 V battery of 100 Ah; the source check measures it."""
SUPPLY_OHM = 10e-3
"""A mains supply's or converter's, with its leads, where nobody measured it."""
STATES_12V: dict[Battery, tuple[tuple[str, str, float], ...]] = {
    "flooded": (
        ("rested", "Rested", 12.7), ("charging", "Charging", 14.2), ("tired", "Tired", 12.0),
        ("start", "Engine start in progress", 9.6),
    ),
    "agm": (
        ("rested", "Rested", 12.8), ("charging", "Charging", 14.2), ("tired", "Tired", 12.1),
        ("start", "Engine start in progress", 9.6),
    ),
    "lithium": (
        ("rested", "Rested", 13.3), ("charging", "Charging", 14.2), ("tired", "Nearly empty", 12.8),
    ),
    "none": (("supply", "Supply on", 13.8), ("low", "Supply at its lowest", 12.0)),
}  # fmt: skip
"""Source states by battery: id, name, open-circuit V at 12 V nominal."""
ENGINE_KINDS: frozenset[CraftKind] = frozenset({"boat", "vehicle"})
AMBIENT_C = 25.0
"""The air of a summer's day aboard; the code's tables hold at 30."""
ENGINE_C = 60.0
"""Air around what runs in the engine space, where the craft has an engine and it runs."""


USUAL_POLARITY: Mapping[CraftKind, Polarity] = {
    "boat": "none", "vehicle": "negative", "caravan": "negative", "other": "negative",
}  # fmt: skip
"""How a craft of its kind is usually wired: a boat two-wire, insulated from its hull, against corrosion."""


def new_craft(
    kind: CraftKind,
    nominal_v: float,
    polarity: Polarity,
    battery: Battery,
    capacity_ah: float | None = None,
    clamps: bool = True,
) -> Craft:
    """A craft without a run: a source between two posts, with clamps on them if wanted.

    Drops will be judged with wires at their service temperature; all starting values are typical.

    Args:
        kind: what craft it is.
        nominal_v: the craft's nominal voltage (V).
        polarity: which post is on chassis or hull, if any.
        battery: what battery it has; none for a supply.
        capacity_ah: what the battery holds (Ah); None where nobody said.
    """
    times = nominal_v / 12.0
    what = "Supply" if battery == "none" else "Battery"
    live, back = ("\u2212", "+") if polarity == "positive" else ("+", "\u2212")
    points = [
        TestPoint(id="live", name=f"{what} {live} post"),
        TestPoint(id="back", name=f"{what} {back} post"),
    ]
    pieces = []
    if clamps:
        points += [
            TestPoint(id="live-clamp", name=f"{what} {live} clamp"),
            TestPoint(id="back-clamp", name=f"{what} {back} clamp"),
        ]
        clamp = FixedPiece(
            id="", start="", end="", side="feed", kind="joint", style="post clamp", name=""
        )
        pieces = [
            replace(clamp, id="j1", start="live", end="live-clamp", name=f"Clamp {live}"),
            replace(
                clamp, id="j2", start="back-clamp", end="back", side="return", name=f"Clamp {back}"
            ),
        ]
    states = STATES_12V[battery]
    source = Source(
        id="source",
        name=what,
        live="live",
        back="back",
        open_circuit_v=round(states[0][2] * times, 3),
        internal_ohm=starting_ohm(battery, nominal_v, capacity_ah),
        battery=battery,
        capacity_ah=capacity_ah,
    )
    engine = kind in ENGINE_KINDS
    scenarios = [
        Scenario(
            id=key,
            name=name,
            on=frozenset(),
            sources={"source": SourceState(round(volts * times, 3))},
            ambient_c=AMBIENT_C,
            engine_c=ENGINE_C if engine and key in ("charging", "start") else None,
            temperature_model="self_heating",
        )
        for key, name, volts in states
        if key != "start" or engine
    ]
    return Craft(
        kind=kind,
        nominal_v=nominal_v,
        polarity=polarity,
        reference="back",
        points=tuple(points),
        sources=(source,),
        pieces=tuple(pieces),
        loads=(),
        scenarios=tuple(scenarios),
    )


def starting_ohm(battery: Battery, nominal_v: float, capacity_ah: float | None) -> float:
    """Internal resistance (ohm) to start from: it goes with the volts and against the capacity.

    Args:
        battery: what battery it has; none for a supply.
        nominal_v: the craft's nominal voltage (V).
        capacity_ah: what the battery holds (Ah); None where nobody said.

    >>> starting_ohm("agm", 24.0, 200.0) == starting_ohm("agm", 12.0, 100.0)
    True
    """
    if battery == "none":
        return SUPPLY_OHM
    at_100 = OHM_AT_12V_100AH[battery] * nominal_v / 12.0
    return round(at_100 * 100.0 / (capacity_ah or 100.0), 6)


def at_nominal(craft: Craft, nominal_v: float) -> Craft:
    """The craft with another nominal voltage; the sources' volts go with it.

    Args:
        nominal_v: the craft's nominal voltage (V).
    """
    times = nominal_v / craft.nominal_v

    def risen(state: SourceState) -> SourceState:
        volts = state.open_circuit_v
        return replace(state, open_circuit_v=None if volts is None else round(volts * times, 6))

    return replace(
        craft,
        nominal_v=nominal_v,
        sources=tuple(
            replace(s, open_circuit_v=round(s.open_circuit_v * times, 6)) for s in craft.sources
        ),
        scenarios=tuple(
            replace(s, sources={key: risen(state) for key, state in s.sources.items()})
            for s in craft.scenarios
        ),
    )
