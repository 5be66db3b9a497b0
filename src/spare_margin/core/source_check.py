"""The source before anything else: polarity, charge, sag, the load test, its posts and clamps.

Figures for 12 V lead-acid at 25 C, scaled with the nominal voltage. Sources: the usual tables of
rested open-circuit voltage and of least volts at the end of a load test with half the cold-crank
rating for 15 s.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from .pieces import Battery

CHARGE_AT_V = ((11.9, 0.0), (12.06, 0.25), (12.24, 0.5), (12.45, 0.75), (12.65, 1.0))
"""Rested volts of a flooded 12 V lead battery, and its state of charge."""
AGM_HIGHER_V = 0.15
LITHIUM_V = (13.2, 13.4)
"""A rested lithium iron phosphate battery stands here over most of its charge."""
SURFACE_CHARGE_V = 12.9
"""A rested flooded battery above this carries surface charge."""
LEAST_AFTER_LOAD_V = (
    (-18.0, 8.5), (-12.0, 8.7), (-7.0, 8.9), (-1.0, 9.1), (4.0, 9.3), (10.0, 9.4), (16.0, 9.5),
    (21.0, 9.6),
)  # fmt: skip
"""Least volts at the end of the load test, by the battery's temperature (C)."""
CHARGING_V = (13.8, 14.8)
"""Typical charging volts at the posts; the battery maker's figure comes first."""
CLAMP_AGED_OHM = 1e-3
"""What a post clamp may have when aged but good."""

State = Literal["unknown", "reversed", "flat", "tired", "fair", "good", "surface_charge"]


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceFigures:
    """What was read at the source: V, A and C; None where it was not read.

    `resting_v`, `loaded_v` and `load_end_v` on the posts themselves; `loaded_clamps_v` between the
    clamps at the same moment as `loaded_v`, while `loaded_a` flowed. `load_end_v` is the end of the
    load test, `cold_crank_a` the rating it goes by.
    """

    battery: Battery
    nominal_v: float
    resting_v: float | None = None
    loaded_v: float | None = None
    loaded_a: float | None = None
    loaded_clamps_v: float | None = None
    temperature_c: float | None = None
    cold_crank_a: float | None = None
    load_end_v: float | None = None
    charging_v: float | None = None


@dataclass(frozen=True, slots=True)
class SourceFinding:
    """One thing the figures say; `good` is None where it is neither good nor bad."""

    says: str
    do: str
    good: bool | None


@dataclass(frozen=True, slots=True)
class SourceVerdict:
    """What the figures say together: state, share of charge, ohms of the source and its clamps."""

    state: State
    charge: float | None
    internal_ohm: float | None
    clamps_ohm: float | None
    load_test_a: float | None
    least_v: float | None
    findings: tuple[SourceFinding, ...]


def check_source(figures: SourceFigures) -> SourceVerdict:
    """Judge a source by what was read at it."""
    times = figures.nominal_v / 12.0
    findings: list[SourceFinding] = []
    state, charge = _resting(figures, times, findings)
    internal, clamps = _loaded(figures, findings)
    least = _load_test(figures, times, findings)
    _charging(figures, times, findings)
    test_a = figures.cold_crank_a / 2 if figures.cold_crank_a else None
    return SourceVerdict(state, charge, internal, clamps, test_a, least, tuple(findings))


def _resting(
    figures: SourceFigures, times: float, findings: list[SourceFinding]
) -> tuple[State, float | None]:
    volts = figures.resting_v
    if volts is None:
        return "unknown", None
    if volts < 0:
        findings.append(
            SourceFinding(
                "It reads negative: the battery, its cables or the leads are reversed.",
                "Stop. Check the polarity on the posts' own marks before anything is switched on.",
                False,
            )
        )
        return "reversed", None
    at_12 = volts / times
    if figures.battery == "none":
        return "unknown", None
    if figures.battery == "lithium":
        return _lithium(at_12, times, findings)
    shift = AGM_HIGHER_V if figures.battery == "agm" else 0.0
    if at_12 > SURFACE_CHARGE_V + shift:
        findings.append(
            SourceFinding(
                f"Above {(SURFACE_CHARGE_V + shift) * times:.2f} V at rest is surface charge.",
                "Take it off with a load for a minute, wait, and read again.",
                None,
            )
        )
        return "surface_charge", None
    table = np.array(CHARGE_AT_V)
    charge = float(np.interp(at_12 - shift, table[:, 0], table[:, 1]))
    state: State = "good" if charge >= 0.75 else "fair" if charge >= 0.5 else "tired"
    if at_12 < CHARGE_AT_V[0][0] + shift:
        state = "flat"
    findings.append(_charge_says(state, charge))
    return state, charge


def _charge_says(state: State, charge: float) -> SourceFinding:
    if state == "flat":
        return SourceFinding(
            "Flat: no run can be judged on it.", "Charge it, let it rest, read again.", False
        )
    about = f"About {round(charge * 20) * 5} % charged."
    if state == "tired":
        return SourceFinding(
            about, "Charge it first: drops read now are at less than the loaded current.", False
        )
    return SourceFinding(about, "", True)


def _lithium(
    at_12: float, times: float, findings: list[SourceFinding]
) -> tuple[State, float | None]:
    low, high = LITHIUM_V
    if at_12 < low:
        findings.append(
            SourceFinding(
                f"Below {low * times:.1f} V at rest: nearly empty, or its management unit limits it.",
                "Read its own monitor; never bypass the management unit.",
                None,
            )
        )
        return "tired", None
    findings.append(
        SourceFinding(
            f"{low * times:.1f} to {high * times:.1f} V at rest is its flat stretch: the voltage "
            "says little about the charge.",
            "Read its own monitor.",
            True,
        )
    )
    return "good", None


def _loaded(
    figures: SourceFigures, findings: list[SourceFinding]
) -> tuple[float | None, float | None]:
    rest, loaded, amps = figures.resting_v, figures.loaded_v, figures.loaded_a
    internal = clamps = None
    if loaded is not None and rest is not None and amps and rest > 0:
        internal = (rest - loaded) / amps
        if internal < 0:
            internal = None
            findings.append(
                SourceFinding(
                    "It reads more under load than at rest: something charges it, or the order "
                    "of the readings is mixed up.",
                    "Switch every charger off and read both again.",
                    None,
                )
            )
        else:
            findings.append(
                SourceFinding(
                    f"It sags {rest - loaded:.2f} V at {amps:.3g} A: {internal * 1000:.1f} m\u03a9 inside.",
                    "",
                    None,
                )
            )
    if figures.loaded_clamps_v is not None and loaded is not None and amps:
        clamps = (loaded - figures.loaded_clamps_v) / amps
        bad = clamps > 2 * CLAMP_AGED_OHM
        findings.append(
            SourceFinding(
                f"Posts to clamps, both together: {(loaded - figures.loaded_clamps_v) * 1000:.0f} mV, "
                f"{clamps * 1000:.2f} m\u03a9.",
                "Clean posts and clamps: the clamp itself is a fault." if bad else "",
                not bad,
            )
        )
    return internal, clamps


def _load_test(figures: SourceFigures, times: float, findings: list[SourceFinding]) -> float | None:
    if figures.temperature_c is None:
        return None
    table = np.array(LEAST_AFTER_LOAD_V)
    least = float(np.interp(figures.temperature_c, table[:, 0], table[:, 1])) * times
    if figures.load_end_v is not None:
        passed = figures.load_end_v >= least
        findings.append(
            SourceFinding(
                f"Load test ended at {figures.load_end_v:.2f} V; at {figures.temperature_c:.0f} \u00b0C "
                f"{least:.2f} V or more passes.",
                ""
                if passed
                else "Charge it fully and test once more; if it fails again, replace it.",
                passed,
            )
        )
    return least


def _charging(figures: SourceFigures, times: float, findings: list[SourceFinding]) -> None:
    volts = figures.charging_v
    if volts is None:
        return
    low, high = (v * times for v in CHARGING_V)
    if figures.resting_v is not None and volts <= figures.resting_v + 0.05 * times:
        findings.append(
            SourceFinding(
                "Charging reads no more than at rest: nothing charges it.",
                "Look at the charger, its fuse and the charging path before the runs.",
                False,
            )
        )
    elif not low <= volts <= high:
        findings.append(
            SourceFinding(
                f"{volts:.2f} V while charging; {low:.1f} to {high:.1f} V is typical.",
                "Compare with the battery maker's figure; read the drop of the charging path.",
                False,
            )
        )
    else:
        findings.append(SourceFinding(f"Charging at {volts:.2f} V.", "", True))
