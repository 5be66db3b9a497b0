"""Currents that need no solving: where every load holds its current and no two ways share one."""

from collections.abc import Sequence

import numpy as np

from spare_margin.core.circuit.ways import Ways
from spare_margin.core.columns import Floats
from spare_margin.core.model.pieces import Craft, Scenario

Steady = tuple[Floats, Floats]
"""What each piece and each run's load carries (A), (pieces,) and (runs,), as the ways have them."""


def steady_currents(craft: Craft, ways: Ways, scenarios: Sequence[Scenario]) -> list[Steady | None]:
    """The currents in each of these scenarios; None for one that must be solved.

    A piece that stands alone on its way carries the sum of its loads, whatever the ohms.
    """
    if len(craft.sources) != 1 or len(ways.run_ids) != len(craft.loads) or not ways.single:
        return [None] * len(scenarios)
    stands_open = np.array([piece.open for piece in craft.pieces], dtype=bool)
    loads = [craft.load(key) for key in ways.run_ids]
    held = [load.behaviour == "constant_current" and not load.load_ohm for load in loads]
    amperes = [load.current_a for load in loads]
    given = np.array(
        [np.nan if a is None or not h else a for a, h in zip(amperes, held, strict=True)]
    )
    times = np.array([load.start_multiple or 1.0 for load in loads])

    def among(keys: frozenset[str]) -> np.ndarray:
        return np.array([key in keys for key in ways.run_ids], dtype=bool)

    def at(scenario: Scenario) -> Steady | None:
        here = stands_open
        if scenario.contacts:
            here = stands_open.copy()
            for key, state in scenario.contacts.items():
                if key in ways.column:
                    here[ways.column[key]] = state == "open"
        on = among(scenario.on)
        if here.any():
            on &= ~(ways.passes & here).any(axis=1)
        drawn = np.where(on, given, 0.0)
        if np.isnan(drawn).any():
            return None
        if scenario.starting:
            drawn = np.where(among(scenario.starting), drawn * times, drawn)
        return drawn @ ways.passes, drawn

    return [at(scenario) for scenario in scenarios]
