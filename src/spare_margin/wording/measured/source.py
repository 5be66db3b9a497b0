"""What the source check found, in words."""

from collections.abc import Mapping

from spare_margin.core.measure import source_findings
from spare_margin.core.measure.source_check import State
from spare_margin.core.measure.source_findings import SourceFinding
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
    match found:
        case source_findings.Reversed():
            return (
                "It reads negative: the battery, its cables or the leads are reversed.",
                "Stop. Check the polarity on the posts' own marks before anything is switched on.",
            )
        case source_findings.SurfaceCharge():
            return (
                f"More than {volts(found.volts)} at rest is surface charge.",
                "Put a load on for a minute, wait, and measure again.",
            )
        case source_findings.Flat():
            return (
                "Flat: don't judge any run on this battery.",
                "Charge it, let it rest, measure again.",
            )
        case source_findings.Charged():
            low = "Charge it first: drops read now are at less than full-load current."
            return (
                f"About {percent(round(found.charge * 20) / 20)} charged.",
                "" if found.good else low,
            )
        case source_findings.LithiumLow():
            return (
                f"Below {volts(found.volts)} at rest: nearly empty, or the BMS is limiting it.",
                "Read its own monitor. Never bypass the BMS (battery management system).",
            )
        case source_findings.LithiumFlatStretch():
            return (
                f"{volts(found.low)} to {volts(found.high)} at rest is the flat part of its "
                "curve: voltage says little about charge.",
                "Read its own monitor.",
            )
        case source_findings.RisenUnderLoad():
            return (
                "Voltage is higher under load than at rest: a charger is on, or the two readings are "
                "swapped.",
                "Switch every charger off and read both again.",
            )
        case source_findings.Sags():
            return (
                f"Voltage drops {volts(found.volts)} at {amperes(found.amperes)}: "
                "internal resistance "
                f"{ohms(found.ohm)}.",
                "",
            )
        case source_findings.Clamps():
            return (
                f"Both clamps together drop {volts(found.volts)} ({ohms(found.ohm)}).",
                "" if found.good else "Clean posts and clamps. The clamp connection is a fault.",
            )
        case source_findings.LoadTest():
            again = "Charge it fully and test once more; if it fails again, replace it."
            return (
                f"Load test ended at {volts(found.volts)}; at {celsius(found.celsius)} "
                f"{volts(found.least)} or more passes.",
                "" if found.good else again,
            )
        case source_findings.NotCharging():
            return (
                "Charging voltage is no higher than at rest: the battery is not being charged.",
                "Check the charger, its fuse and the charging path before testing the runs.",
            )
        case source_findings.ChargingUnusual():
            return (
                f"{volts(found.volts)} while charging; {volts(found.low)} to "
                f"{volts(found.high)} is typical.",
                "Compare with the battery maker's figure; read the drop of the charging path.",
            )
        case source_findings.Charging():
            return f"Charging at {volts(found.volts)}.", ""
