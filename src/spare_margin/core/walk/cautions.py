"""Which cautions belong to what is on screen, and which must be taken note of before a walk."""

from typing import Literal

from spare_margin.core.model.jobs import Stage
from spare_margin.core.model.pieces import Craft, Duty

CautionId = Literal[
    "hot_joint",
    "high_current",
    "load_testers",
    "lithium",
    "control_units",
    "unbolting",
    "battery",
    "petrol_gas",
    "after_work",
    "typical",
]
HIGH_CURRENT_A = 40.0
GUARDS: frozenset[CautionId] = frozenset(
    {"high_current", "battery", "petrol_gas", "lithium", "control_units"}
)
"""Cautions that can prevent an injury while measuring: a walk waits for them."""


def cautions(
    craft: Craft, current_a: float, stage: Stage, burning: bool, testing: bool = False
) -> list[CautionId]:
    """The cautions for what is on screen, the most pressing first.

    Args:
        current_a: the most current (A) that is meant to flow.
        burning: whether something is a fire hazard now.
        testing: whether a load tester is in use.
    """
    applies: list[tuple[CautionId, bool]] = [
        ("hot_joint", burning),
        ("high_current", current_a >= HIGH_CURRENT_A),
        ("load_testers", testing),
        ("lithium", any(source.battery == "lithium" for source in craft.sources)),
        ("control_units", any(load.duty == "control_supply" for load in craft.loads)),
        ("unbolting", stage == "planned"),
        ("battery", True),
        ("petrol_gas", craft.kind == "boat"),
        ("after_work", stage == "as_left"),
        ("typical", True),
    ]
    return [caution for caution, holds in applies if holds]


def guards(craft: Craft, current_a: float, stage: Stage, duty: Duty) -> list[CautionId]:
    """The cautions to be acknowledged before a run whose load has this duty is measured."""
    return [
        caution
        for caution in cautions(craft, current_a, stage, burning=False)
        if caution in GUARDS and (caution != "control_units" or duty == "control_supply")
    ]
