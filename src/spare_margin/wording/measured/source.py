"""What the source check found, in words."""

from collections.abc import Mapping

from spare_margin.core.measure.source_check import SourceFinding, State
from spare_margin.wording.language.figures import amperes, ohms, percent, volts
from spare_margin.wording.language.units import celsius

STATES: Mapping[State, str] = {
    "unknown": "not read yet",
    "reversed": "reversed",
    "flat": "flat",
    "tired": "tired",
    "fair": "fair",
    "good": "good",
    "surface_charge": "surface charge",
}


def source_finding_words(found: SourceFinding) -> tuple[str, str]:
    """A finding as (what it says, what to do); the latter may be empty."""
    facts = found.facts
    match found.code:
        case "reversed":
            return (
                "It reads negative: the battery, its cables or the leads are reversed.",
                "Stop. Check the polarity on the posts' own marks before anything is switched on.",
            )
        case "surface_charge":
            return (
                f"More than {volts(facts['volts'])} at rest is surface charge.",
                "Put a load on for a minute, wait, and measure again.",
            )
        case "flat":
            return (
                "Flat: don't judge any run on this battery.",
                "Charge it, let it rest, measure again.",
            )
        case "charge":
            low = "Charge it first: drops read now are at less than full-load current."
            return (
                f"About {percent(round(facts['charge'] * 20) / 20)} charged.",
                "" if found.good else low,
            )
        case "lithium_low":
            return (
                f"Below {volts(facts['volts'])} at rest: nearly empty, or the BMS is limiting it.",
                "Read its own monitor. Never bypass the BMS (battery management system).",
            )
        case "lithium_flat_stretch":
            return (
                f"{volts(facts['low'])} to {volts(facts['high'])} at rest is the flat part of its "
                "curve: voltage says little about charge.",
                "Read its own monitor.",
            )
        case "risen_under_load":
            return (
                "Voltage is higher under load than at rest: a charger is on, or the two readings are "
                "swapped.",
                "Switch every charger off and read both again.",
            )
        case "sags":
            return (
                f"Voltage drops {volts(facts['volts'])} at {amperes(facts['amperes'])}: "
                "internal resistance "
                f"{ohms(facts['ohm'])}.",
                "",
            )
        case "clamps":
            return (
                f"Both clamps together drop {volts(facts['volts'])} ({ohms(facts['ohm'])}).",
                "" if found.good else "Clean posts and clamps. The clamp connection is a fault.",
            )
        case "load_test":
            again = "Charge it fully and test once more; if it fails again, replace it."
            return (
                f"Load test ended at {volts(facts['volts'])}; at {celsius(facts['celsius'])} "
                f"{volts(facts['least'])} or more passes.",
                "" if found.good else again,
            )
        case "not_charging":
            return (
                "Charging voltage is no higher than at rest: the battery is not being charged.",
                "Check the charger, its fuse and the charging path before testing the runs.",
            )
        case "charging_unusual":
            return (
                f"{volts(facts['volts'])} while charging; {volts(facts['low'])} to "
                f"{volts(facts['high'])} is typical.",
                "Compare with the battery maker's figure; read the drop of the charging path.",
            )
        case "charging":
            return f"Charging at {volts(facts['volts'])}.", ""
    raise AssertionError(found.code)
