"""How much current each kind of load draws at a voltage, and how steeply that changes.

A law is odd: a reversed voltage gives the reversed current. Below its knee a load that would
hold its current or power gives up in proportion, as real ones do, so that a dead supply
carries nothing.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.model.pieces import Load

Volts = NDArray[np.float64]
FILAMENT_EXPONENT = 0.55
"""A hot filament's current goes with V^0.55: its resistance climbs with its temperature."""
UNKNOWN_A = 4.0
"""What a load is taken to draw (A) while nobody has said or read it; e^1.5 times more or less."""
KNEE_SHARE = 0.04
"""Knee of the current- and power-holding loads, as a share of the craft's nominal voltage."""


@dataclass(frozen=True, slots=True)
class LoadLaws:
    """The laws of several loads, as arrays: current = slope * V up to the knee, then a * V^p.

    Args:
        scale: a, in A / V^p.
        power: p; 0 holds current, 1 is a resistor, -1 holds power, 0.55 is a filament.
        knee_v: below this the law is the straight line through zero that meets it there.
    """

    scale: Volts
    power: Volts
    knee_v: Volts

    def current(self, volts: Volts) -> Volts:
        """Current (A) at these voltages (V).

        Args:
            volts: volts across each load (V), (loads,).
        """
        size = np.maximum(np.abs(volts), self.knee_v)
        above = np.sign(volts) * self.scale * size**self.power
        return np.where(np.abs(volts) < self.knee_v, self._knee_slope() * volts, above)

    def slope(self, volts: Volts) -> Volts:
        """dI/dV (S) at these voltages (V); negative for a load that holds its power.

        Args:
            volts: volts across each load (V), (loads,).
        """
        size = np.maximum(np.abs(volts), self.knee_v)
        above = self.scale * self.power * size ** (self.power - 1)
        return np.where(np.abs(volts) < self.knee_v, self._knee_slope(), above)

    def tangent(self, volts: Volts) -> tuple[Volts, Volts]:
        """The straight lines through the laws at these volts: slopes (S), and what they draw at 0 V (A).

        >>> lamp = LoadLaws(np.array([2.0]), np.array([0.5]), np.array([0.1]))  # 2 A / V^0.5
        >>> slope, offset = lamp.tangent(np.array([4.0]))
        >>> slope.tolist(), offset.tolist(), lamp.current(np.array([4.0])).tolist()
        ([0.5], [2.0], [4.0])
        """
        size = np.abs(volts)
        flat = size < self.knee_v
        chord = self.scale * np.maximum(size, self.knee_v) ** (self.power - 1)
        slope = np.where(flat, chord, self.power * chord)
        return slope, np.where(flat, 0.0, (1.0 - self.power) * chord * volts)

    def _knee_slope(self) -> Volts:
        return self.scale * self.knee_v ** (self.power - 1)


def law_of(load: Load, nominal_v: float) -> tuple[float, float, float]:
    """The (scale, power, knee) of one load; see LoadLaws. Its figures must have been checked.

    Args:
        nominal_v: the craft's nominal voltage (V).

    >>> heater = {"behaviour": "constant_resistance", "power_w": 60.0, "rated_v": 12.0}
    >>> scale, power, knee = law_of(Load(id="l", start="a", end="b", name="Heater", **heater), 12.0)
    >>> round(scale * 12.0**power, 6)  # A at its rated voltage
    5.0
    """
    knee = KNEE_SHARE * nominal_v
    if load.behaviour is None:
        return UNKNOWN_A, 0.0, knee
    if load.load_ohm is not None:
        return 1 / load.load_ohm, 1.0, 0.0
    if load.behaviour == "constant_current":
        return _given(load.current_a), 0.0, knee
    power_w = _given(load.power_w)
    if load.behaviour == "constant_power":
        return power_w, -1.0, knee
    rated_v = _given(load.rated_v)
    if load.behaviour == "constant_resistance":
        return power_w / rated_v**2, 1.0, 0.0
    return power_w / rated_v ** (1 + FILAMENT_EXPONENT), FILAMENT_EXPONENT, knee


def current_at(load: Load, nominal_v: float, volts: float) -> float:
    """What a load should draw (A) where it gets so many volts.

    Args:
        nominal_v: the craft's nominal voltage (V).

    >>> heater = {"behaviour": "constant_resistance", "power_w": 60.0, "rated_v": 12.0}
    >>> current_at(Load(id="l", start="a", end="b", name="Heater", **heater), 12.0, 6.0)
    2.5
    """
    scale, power, knee = law_of(load, nominal_v)
    return float(scale * max(volts, knee, 1e-6) ** power)


def rated_current_a(load: Load, nominal_v: float) -> float:
    """The current (A) a person would plan with: at the rated voltage, else at the nominal one.

    Args:
        load: the load.
        nominal_v: the craft's nominal voltage (V).

    >>> law = {"behaviour": "filament", "power_w": 21.0, "rated_v": 12.0}
    >>> lamp = Load(id="l", start="a", end="b", name="Lamp", **law)
    >>> round(rated_current_a(lamp, 13.8), 6)  # at its own rated voltage, whatever the craft has
    1.75
    """
    scale, power, _ = law_of(load, nominal_v)
    return float(scale * (load.rated_v or nominal_v) ** power)


def laws_of(loads: list[Load], nominal_v: float) -> LoadLaws:
    """The laws of these loads, in their order.

    Args:
        nominal_v: the craft's nominal voltage (V).
    """
    rows = np.array([law_of(load, nominal_v) for load in loads], dtype=float).reshape(-1, 3)
    return LoadLaws(rows[:, 0], rows[:, 1], np.maximum(rows[:, 2], 1e-9))


def _given(value: float | None) -> float:
    assert value is not None, "checked when the job was read"
    return value
