"""The source before anything else: polarity, charge, sag, the load test, its posts and clamps.

Figures for 12 V lead-acid at 25 C, scaled with the nominal voltage. Sources: the usual tables of
rested open-circuit voltage and of least volts at the end of a load test with half the cold-crank
rating for 15 s.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from spare_margin.core.model.pieces import Battery

from . import source_findings as said
from .source_findings import SourceFinding

CHARGE_AT_V = ((11.9, 0.0), (12.06, 0.25), (12.24, 0.5), (12.45, 0.75), (12.65, 1.0))
"""Rested volts of a flooded 12 V lead battery, and its state of charge."""
AGM_HIGHER_V = 0.15
"""A rested absorbed-glass-mat battery stands this much above a flooded one, by the makers' tables."""
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
    """Judge a source by what was read at it.

    Inner ohms are the fall of the volts between rest and load by the current that made it fall.

    Args:
        figures: what was read at it.

    >>> read = {"resting_v": 12.6, "loaded_v": 12.4, "loaded_a": 20.0}
    >>> found = check_source(SourceFigures(battery="flooded", nominal_v=12.0, **read))
    >>> found.state, round(found.internal_ohm, 4)
    ('good', 0.01)
    """
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
        findings.append(said.Reversed())
        return "reversed", None
    at_12 = volts / times
    if figures.battery == "none":
        return "unknown", None
    if figures.battery == "lithium":
        return _lithium(at_12, times, findings)
    shift = AGM_HIGHER_V if figures.battery == "agm" else 0.0
    if at_12 > SURFACE_CHARGE_V + shift:
        findings.append(said.SurfaceCharge((SURFACE_CHARGE_V + shift) * times))
        return "surface_charge", None
    table = np.array(CHARGE_AT_V)
    charge = float(np.interp(at_12 - shift, table[:, 0], table[:, 1]))
    state: State = "good" if charge >= 0.75 else "fair" if charge >= 0.5 else "tired"
    if at_12 < CHARGE_AT_V[0][0] + shift:
        state = "flat"
    findings.append(_charged(state, charge))
    return state, charge


def _charged(state: State, charge: float) -> SourceFinding:
    if state == "flat":
        return said.Flat()
    return said.Charged(charge, state != "tired")


def _lithium(
    at_12: float, times: float, findings: list[SourceFinding]
) -> tuple[State, float | None]:
    low, high = LITHIUM_V
    if at_12 < low:
        findings.append(said.LithiumLow(low * times))
        return "tired", None
    findings.append(said.LithiumFlatStretch(low * times, high * times))
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
            findings.append(said.RisenUnderLoad())
        else:
            findings.append(said.Sags(rest - loaded, amps, internal))
    if figures.loaded_clamps_v is not None and loaded is not None and amps:
        clamps = (loaded - figures.loaded_clamps_v) / amps
        bad = clamps > 2 * CLAMP_AGED_OHM
        findings.append(said.Clamps(loaded - figures.loaded_clamps_v, clamps, not bad))
    return internal, clamps


def _load_test(figures: SourceFigures, times: float, findings: list[SourceFinding]) -> float | None:
    if figures.temperature_c is None:
        return None
    table = np.array(LEAST_AFTER_LOAD_V)
    least = float(np.interp(figures.temperature_c, table[:, 0], table[:, 1])) * times
    if figures.load_end_v is not None:
        passed = figures.load_end_v >= least
        findings.append(said.LoadTest(figures.load_end_v, figures.temperature_c, least, passed))
    return least


def _charging(figures: SourceFigures, times: float, findings: list[SourceFinding]) -> None:
    volts = figures.charging_v
    if volts is None:
        return
    low, high = (v * times for v in CHARGING_V)
    if figures.resting_v is not None and volts <= figures.resting_v + 0.05 * times:
        findings.append(said.NotCharging())
    elif not low <= volts <= high:
        findings.append(said.ChargingUnusual(volts, low, high))
    else:
        findings.append(said.Charging(volts))
