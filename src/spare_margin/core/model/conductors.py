"""Conductor resistance, temperature and ampacity from the size tables.

Sources: copper resistivity and temperature coefficient as IEC 60028; AWG diameters as ASTM B258.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.columns import with_others
from spare_margin.core.model.pieces import Conductor, Scenario, Size

COPPER_OHM_MM2_PER_M = 0.017241 * 1.02
"""Resistivity of stranded copper at 20 C, its lay included."""
COPPER_ALPHA_PER_K = 0.00393
"""Temperature coefficient of copper's resistance, from 20 C."""
COPPER_KG_PER_M_MM2 = 8.96e-3
"""Density of copper, 8960 kg/m3, as kg per metre and mm2."""
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
    """The table of conductors: resistance by size, ampacity by (system, size, insulation)."""

    rows: Mapping[Size, ConductorRow]
    ampacities: Mapping[tuple[str, str, int], AmpacityRow]

    @classmethod
    def of(
        cls,
        rows: Iterable[ConductorRow],
        ampacities: Mapping[tuple[str, str, int], AmpacityRow],
    ) -> "ConductorTable":
        """A table from rows in the order in which they are to be offered.

        Args:
            ampacities: a row for each system, insulation and size.
        """
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


def hottest_air_c(wires: Iterable[Conductor], scenarios: Iterable[Scenario]) -> float:
    """The hottest air (C) around any of these wires, a typical one for an engine space nobody measured.

    Args:
        scenarios: the states of the craft.
    """
    found = [
        max(ENGINE_SPACE_C, s.ambient_c)
        if wire.engine_space and s.engine_c is None
        else air_around_c(wire, s)
        for wire in wires
        for s in scenarios
    ]
    return max(found)


def air_around_c(wire: Conductor, scenario: Scenario) -> float:
    """The air (C) around a wire in a scenario: the engine space's own where it runs there."""
    hot = wire.engine_space and scenario.engine_c is not None
    return scenario.engine_c if hot and scenario.engine_c is not None else scenario.ambient_c


ENGINE_SPACE_C, ENGINE_SPACE_AT_MOST = 50.0, 0.85
"""Air of an engine space whose own nobody said, and the share of the ampacity left at most."""
BUNDLES = ((3, 1.0), (6, 0.7), (24, 0.6))
"""Up to so many loaded conductors lying together each bears this share; half in a larger bundle."""


def bundle_share(conductors: int) -> float:
    """The share of its ampacity that a conductor bears among so many loaded ones.

    Args:
        conductors: how many loaded ones lie together.

    >>> [bundle_share(n) for n in (1, 3, 4, 7, 24, 25)]
    [1.0, 1.0, 0.7, 0.6, 0.6, 0.5]
    """
    return next((share for most, share in BUNDLES if conductors <= most), 0.5)


def corrected_ampacity_a(
    wire: Conductor, scenario: Scenario, table: ConductorTable
) -> float | None:
    """Current (A) a wire bears where it lies; None where the table has no row for it.

    I = I_table sqrt((T_ins - T_air) / (T_ins - T_ref)): the rise left to the insulation goes with the
    square of the current. Nothing (0 A) where the air alone is as hot as the insulation bears. In an
    engine space whose air nobody said, 0.85 for 105 C insulation and less for cooler grades; times the
    share of a bundle.

    Args:
        scenario: the state of the craft that is asked about.
    """
    row = table.ampacity(wire)
    if row is None or wire.insulation_c is None:
        return None
    air = air_around_c(wire, scenario)
    share = ambient_share(wire.insulation_c, air)
    if wire.engine_space and scenario.engine_c is None:
        hot = ambient_share(wire.insulation_c, max(ENGINE_SPACE_C, air))
        share = min(share * ENGINE_SPACE_AT_MOST, hot)
    return row.ampacity_a * share * bundle_share(wire.bundle)


def careful_ampacity_a(wire: Conductor, scenario: Scenario, table: ConductorTable) -> float | None:
    """Current (A) a wire surely bears where it lies: where nobody said its insulation, that of the kind
    that bears least heat in the table. None where the table has no row of its size.

    Args:
        scenario: the state of the craft that is asked about.
    """
    if wire.insulation_c is not None or wire.size is None:
        return corrected_ampacity_a(wire, scenario, table)
    kinds = [
        c
        for system, value, c in table.ampacities
        if (system, value) == (wire.size.system, wire.size.value)
    ]
    if not kinds:
        return None
    return corrected_ampacity_a(replace(wire, insulation_c=float(min(kinds))), scenario, table)


def ambient_share(insulation_c: float, air_c: float) -> float:
    """The share of its ampacity that a conductor bears in air so warm.

    Args:
        insulation_c: what its insulation bears (C).
        air_c: the air around it (C).

    >>> round(ambient_share(105.0, 50.0), 3)
    0.856
    """
    left = max(insulation_c - air_c, 0.0)
    return math.sqrt(left / (insulation_c - AMPACITY_REFERENCE_C))


def cold_ohm(wire: Conductor, table: ConductorTable) -> float:
    """Resistance (ohm) of this wire at 20 C: its own ohms a metre, else its table row's, by its length (m).

    Raises:
        KeyError: its size is in no table row.

    >>> wire = Conductor(id="w", start="a", end="b", side="feed", length_m=4.0, ohm_per_m=0.0073)
    >>> round(cold_ohm(wire, ConductorTable({}, {})), 4)
    0.0292
    """
    if wire.ohm_per_m is not None:
        return wire.ohm_per_m * wire.length_m
    assert wire.size is not None, "a conductor has a size, ohm_per_m or resistance_ohm"
    return table.rows[wire.size].ohm_per_m * wire.length_m


def copper_kg(size: Size, length_m: float, table: ConductorTable) -> float | None:
    """Mass (kg) of the copper in so much of a size; None where no table says its area.

    Args:
        length_m: how much of it (m).
    """
    row = table.rows.get(size)
    return None if row is None else row.area_mm2 * length_m * COPPER_KG_PER_M_MM2


Number = TypeVar("Number", float, NDArray[np.float64])


def warm_ohm(cold: Number, temperature_c: Number) -> Number:
    """Copper resistance (ohm) at a temperature (C), from its resistance at 20 C; floats, or arrays.

    R = R20 (1 + alpha (T - 20)), alpha = 0.00393 per K: annealed copper, IEC 60028.

    Args:
        cold: ohms at 20 C.
        temperature_c: how warm it is (C).

    >>> round(warm_ohm(0.1, 70.0), 5)
    0.11965
    """
    return cold * (1 + COPPER_ALPHA_PER_K * (temperature_c - 20.0))


@dataclass(frozen=True, slots=True)
class Warmth:
    """What decides the temperatures of several conductors.

    Args:
        given_c: a temperature given with the wire, which rules; NaN where there is none.
        rise_k_per_a2: how much warmer it gets by the square of its current; 0 where nothing says.
        engine_space: whether it runs where a scenario's `engine_c` holds.
    """

    given_c: NDArray[np.float64]
    rise_k_per_a2: NDArray[np.float64]
    engine_space: NDArray[np.bool_]

    @classmethod
    def of(cls, wires: Sequence[Conductor | None], table: ConductorTable) -> "Warmth":
        """The warmth of these wires; None stands for what temperature does not change.

        At its ampacity, less in a bundle, a wire is as warm as its insulation bears in air of the table's
        temperature, and heat goes with the square of the current.
        """
        given, rise = np.full(len(wires), np.nan), np.zeros(len(wires))
        engine_space = np.zeros(len(wires), dtype=bool)
        rated: dict[tuple[Size | None, float | None], AmpacityRow | None] = {}
        for i, wire in enumerate(wires):
            if wire is None:
                continue
            if wire.temperature_c is not None:
                given[i] = wire.temperature_c
            engine_space[i] = wire.engine_space
            sort = (wire.size, wire.insulation_c)
            row = rated[sort] if sort in rated else rated.setdefault(sort, table.ampacity(wire))
            if row is not None and wire.insulation_c is not None:
                bears = row.ampacity_a * bundle_share(wire.bundle)
                rise[i] = (wire.insulation_c - AMPACITY_REFERENCE_C) / bears**2
        return cls(given, rise, engine_space)

    def with_others(self, at: Sequence[int], others: "Warmth") -> "Warmth":
        """The warmth of the same conductors, but for those at these places.

        Args:
            others: what is otherwise at those places.
        """
        return Warmth(
            with_others(self.given_c, at, others.given_c),
            with_others(self.rise_k_per_a2, at, others.rise_k_per_a2),
            with_others(self.engine_space, at, others.engine_space),
        )

    def temperatures_c(
        self, scenario: Scenario, current_a: NDArray[np.float64]
    ) -> NDArray[np.float64]:
        """Service temperatures (C) of the conductors, carrying these currents (A).

        Self-heating in the steady state is T = Ta + (T_insulation - T_ref) (I / I_max)^2, with I_max as in
        its bundle. Without an ampacity figure, or where the scenario says ambient, a wire stays at ambient;
        an engine space whose air nobody said is taken to be at 50 C where wires heat.

        Args:
            current_a: what each conductor carries (A), (conductors,).
        """
        heats = scenario.temperature_model == "self_heating"
        air: float | NDArray[np.float64] = scenario.ambient_c
        if scenario.engine_c is not None:
            air = np.where(self.engine_space, scenario.engine_c, air)
        elif heats:
            air = np.where(self.engine_space, max(ENGINE_SPACE_C, scenario.ambient_c), air)
        if heats:
            air = air + self.rise_k_per_a2 * current_a**2
        return np.where(np.isnan(self.given_c), air, self.given_c)


def seeming_area_mm2(
    wire: Conductor, ohm: float, temperature_c: float, table: ConductorTable
) -> float | None:
    """The copper area (mm2) that a wire of this length would have with this resistance (ohm), so warm.

    A = rho L / R, with rho of its own table row where it has one. None without length or resistance.

    Args:
        temperature_c: how warm it is (C).

    >>> ten = Conductor(id="w", start="a", end="b", side="feed", length_m=10.0)
    >>> round(seeming_area_mm2(ten, 0.1, 20.0, ConductorTable({}, {})), 2)
    1.76
    """
    if wire.length_m <= 0 or ohm <= 0:
        return None
    row = table.rows.get(wire.size) if wire.size is not None else None
    rho = COPPER_OHM_MM2_PER_M if row is None else row.ohm_per_m * row.area_mm2
    return warm_ohm(rho * wire.length_m, temperature_c) / ohm
