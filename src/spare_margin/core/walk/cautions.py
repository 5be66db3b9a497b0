"""Which cautions belong to what is on screen, and which must be taken note of before a walk."""

import re
from collections.abc import Collection
from typing import Literal

from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.measure.findings import Burning, ProtectionOpen
from spare_margin.core.model.jobs import Stage
from spare_margin.core.model.pieces import Craft, Load

from .regulated import regulated

CautionId = Literal[
    "hot_joint",
    "open_protection",
    "body_return",
    "high_current",
    "load_testers",
    "lithium",
    "control_units",
    "mains_side",
    "brakes_steering",
    "road_lights",
    "unbolting",
    "battery",
    "petrol_gas",
    "after_work",
    "typical",
]
HIGH_CURRENT_A = 40.0
"""From here on a short or a loose clip melts metal (A)."""
GUARDS: frozenset[CautionId] = frozenset(
    {
        "high_current", "battery", "petrol_gas", "lithium", "control_units", "mains_side",
        "brakes_steering",
    }
)  # fmt: skip
"""Cautions that can prevent an injury while measuring: a walk waits for them."""
_FUEL = re.compile(r"fuel|petrol|gasoline|\bgas\b|\blpg\b|bilge blower", re.I)
_MAINS_SIDE = re.compile(r"\binverter\b|shore charger|mains charger|battery charger", re.I)
_CONTROL = re.compile(r"control unit|\bsensor\b|control module|\becu\b|engine control", re.I)


def cautions(
    craft: Craft,
    current_a: float,
    stage: Stage,
    load: Load | None = None,
    found: Collection[CautionId] = (),
    testing: bool = False,
) -> list[CautionId]:
    """The cautions for what is on screen, the most pressing first.

    Args:
        current_a: the most current (A) that is meant to flow.
        load: the load whose run is on screen; None for the whole craft.
        found: what the readings give cause for, as of `raised`.
        testing: whether a load tester is in use.
        stage: as found, planned, or as left.
    """
    loads = craft.loads if load is None else (load,)
    names = " / ".join(x.name for x in loads)
    ruled = {regulated(x.name) for x in loads}
    winch = load is not None and load.duty == "short_time"
    unit = any(x.duty == "control_supply" for x in loads) or bool(_CONTROL.search(names))
    applies: list[tuple[CautionId, bool]] = [
        ("hot_joint", "hot_joint" in found),
        ("open_protection", "open_protection" in found),
        ("body_return", "body_return" in found),
        ("high_current", current_a >= HIGH_CURRENT_A or winch),
        ("load_testers", testing),
        ("lithium", any(source.battery == "lithium" for source in craft.sources)),
        ("control_units", unit or "engine_control" in ruled),
        ("mains_side", bool(_MAINS_SIDE.search(names))),
        ("brakes_steering", "brakes_steering" in ruled),
        ("road_lights", "road_lights" in ruled or bool(re.search(r"\bhorn\b", names, re.I))),
        ("unbolting", stage == "planned"),
        ("battery", True),
        ("petrol_gas", craft.kind == "boat" or bool(_FUEL.search(names))),
        ("after_work", stage == "as_left"),
        ("typical", True),
    ]
    return [caution for caution, holds in applies if holds]


def guards(craft: Craft, current_a: float, stage: Stage, load: Load) -> list[CautionId]:
    """The cautions to be acknowledged before the run of this load is measured.

    Args:
        craft: the wiring.
        current_a: what the load draws (A).
        stage: as found, planned, or as left.
    """
    return [c for c in cautions(craft, current_a, stage, load) if c in GUARDS]


def raised(found: Judgement) -> frozenset[CautionId]:
    """What the readings of a run give cause to caution against.

    Args:
        found: what the readings say of the run.
    """
    out: set[CautionId] = set()
    if any(isinstance(f, Burning) for f in found.findings):
        out.add("hot_joint")
    if any(isinstance(f, ProtectionOpen) for f in found.findings):
        out.add("open_protection")
    body = any(s.piece.kind == "body_return" for s in found.run.back)
    if body and found.sides["return"].verdict in ("over", "over_as_ran"):
        out.add("body_return")
    return frozenset(out)
