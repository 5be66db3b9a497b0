"""Conductor resistance, temperature and ampacity from the size tables.

Sources: copper resistivity and temperature coefficient as IEC 60028; AWG diameters as ASTM B258.
"""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from .pieces import Conductor, Scenario, Size

COPPER_ALPHA_PER_K = 0.00393
"""Temperature coefficient of copper's resistance, from 20 C."""
COPPER_RHO_20 = 0.017241
"""Resistivity of annealed copper at 20 C, ohm mm2 / m."""
STRANDING_LAY = 1.02
"""Extra length of strands that run round, not along, the conductor."""
AMPACITY_REFERENCE_C = 30.0
"""Ambient at which the ampacity table holds."""


@dataclass(frozen=True, slots=True)
class ConductorRow:
    """One size as sold: area in mm2, resistance at 20 C in ohm/m, and who says so."""

    size: Size
    area_mm2: float
    ohm_per_m: float
    source: str


@dataclass(frozen=True, slots=True)
class AmpacityRow:
    """Current (A) that a size may carry in free air at 30 C with this insulation, and who says so."""

    ampacity_a: float
    source: str


@dataclass(frozen=True, slots=True)
class ConductorTable:
    """The shelf of conductors: resistance by size, ampacity by (system, size, insulation)."""

    rows: Mapping[Size, ConductorRow]
    ampacities: Mapping[tuple[str, str, int], AmpacityRow]

    @classmethod
    def of(
        cls,
        rows: Iterable[ConductorRow],
        ampacities: Mapping[tuple[str, str, int], AmpacityRow],
    ) -> "ConductorTable":
        """A table from rows in the order in which they are to be offered."""
        return cls({row.size: row for row in rows}, ampacities)

    def sizes(self, system: str) -> list[str]:
        """The size names of a system, thinnest first, each once."""
        return list(dict.fromkeys(s.value for s in self.rows if s.system == system))

    def ampacity(self, wire: Conductor) -> AmpacityRow | None:
        """The table's ampacity of this wire; None where the table has no row for it."""
        if wire.size is None or wire.insulation_c is None:
            return None
        key = (wire.size.system, wire.size.value, round(wire.insulation_c))
        return self.ampacities.get(key)


def awg_area_mm2(gauge: int) -> float:
    """Area (mm2) of an AWG gauge number; 0, -1, -2, -3 stand for 1/0 to 4/0 (ASTM B258)."""
    diameter_mm = 0.127 * 92.0 ** ((36 - gauge) / 39)
    return float(math.pi * diameter_mm**2 / 4)


def copper_ohm_per_m(area_mm2: float) -> float:
    """Resistance per metre (ohm/m) of stranded copper at 20 C, where no table row fits."""
    return COPPER_RHO_20 / area_mm2 * STRANDING_LAY


def cold_ohm(wire: Conductor, table: ConductorTable) -> float:
    """Resistance (ohm) of this wire at 20 C. KeyError if its size is in no table row."""
    if wire.ohm_per_m is not None:
        return wire.ohm_per_m * wire.length_m
    assert wire.size is not None, "a conductor has a size, ohm_per_m or resistance_ohm"
    return table.rows[wire.size].ohm_per_m * wire.length_m


Number = TypeVar("Number", float, NDArray[np.float64])


def warm_ohm(cold: Number, temperature_c: Number) -> Number:
    """Copper resistance (ohm) at a temperature, from its resistance at 20 C."""
    return cold * (1 + COPPER_ALPHA_PER_K * (temperature_c - 20.0))


def service_temperature_c(
    wire: Conductor, scenario: Scenario, current_a: float, ampacity_a: float | None
) -> float:
    """Temperature (C) of this wire in a scenario, carrying `current_a`.

    A temperature given with the wire rules. Self-heating in the steady state is
    T = Ta + (T_insulation - T_ref) (I / I_max)^2, since the heat goes with the square of the
    current and the rise with the heat; without an ampacity figure the wire stays at ambient.
    """
    if wire.temperature_c is not None:
        return wire.temperature_c
    if scenario.temperature_model == "ambient" or ampacity_a is None or wire.insulation_c is None:
        return scenario.ambient_c
    rise_at_ampacity = wire.insulation_c - AMPACITY_REFERENCE_C
    return scenario.ambient_c + rise_at_ampacity * (current_a / ampacity_a) ** 2
