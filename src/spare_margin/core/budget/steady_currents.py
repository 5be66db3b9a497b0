"""Currents that need no solving: where every load holds its current and no two ways share one."""

import math
from collections.abc import Hashable

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.circuit.ways import Ways
from spare_margin.core.columns import Floats
from spare_margin.core.model.pieces import Craft, Load, Scenario

Steady = tuple[Floats, Floats]
"""What each piece and each run's load carries (A), (pieces,) and (runs,), as the ways have them."""


class SteadyCurrents:
    """The currents of a craft in any scenario, where they need no solving: a piece that stands alone on its
    way carries the sum of its loads, whatever the ohms.

    Args:
        ways: the ways of the runs, as arrays.

    Attributes:
        given: what each run's load holds (A), NaN where it holds no current, (runs,).
        times: how many times that it starts with, (runs,).
    """

    def __init__(self, craft: Craft, ways: Ways) -> None:
        self.ways = ways
        self.alone = len(craft.sources) == 1 and len(ways.run_ids) == len(craft.loads)
        self.alone = self.alone and ways.single
        self._made: dict[Hashable, Steady | None] = {}
        self.stands_open = np.array([piece.open for piece in craft.pieces], dtype=bool)
        loads = [craft.load(key) for key in ways.run_ids]
        self.given: Floats = np.array([_held_a(load) for load in loads], dtype=float)
        self.times: Floats = np.array([load.start_multiple or 1.0 for load in loads])

    def at(self, scenario: Scenario) -> Steady | None:
        """The currents in a scenario; None where it must be solved.

        Scenarios that differ in their sources alone have one answer, the same object.
        """
        if not self.alone:
            return None
        key = scenario.on, scenario.starting, tuple(sorted(scenario.contacts.items()))
        if key not in self._made:
            self._made[key] = self._at(scenario)
        return self._made[key]

    def _at(self, scenario: Scenario) -> Steady | None:
        ways, stands_open = self.ways, self.stands_open.copy()
        for key, state in scenario.contacts.items():
            if key in ways.column:
                stands_open[ways.column[key]] = state == "open"
        on = self._among(scenario.on)
        if stands_open.any():
            on &= ~(ways.passes & stands_open).any(axis=1)
        drawn = np.where(on, self.given, 0.0)
        if np.isnan(drawn).any():
            return None
        if scenario.starting:
            drawn = np.where(self._among(scenario.starting), drawn * self.times, drawn)
        return drawn @ ways.passes, drawn

    def _among(self, keys: frozenset[str]) -> NDArray[np.bool_]:
        return np.array([key in keys for key in self.ways.run_ids], dtype=bool)


def _held_a(load: Load) -> float:
    holds = load.behaviour == "constant_current" and not load.load_ohm
    return math.nan if load.current_a is None or not holds else load.current_a
