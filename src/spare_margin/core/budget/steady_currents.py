"""Currents that need no solving: where every load holds its current and no two ways share one."""

import numpy as np

from spare_margin.core.circuit.ways import Ways
from spare_margin.core.columns import Floats
from spare_margin.core.model.pieces import Craft, Scenario


def steady_currents(craft: Craft, ways: Ways, scenario: Scenario) -> tuple[Floats, Floats] | None:
    """What each piece and each run's load carries (A) in a scenario; None where that must be solved.

    A piece that stands alone on its way carries the sum of its loads, whatever the ohms. Shapes: (pieces,)
    and (runs,), as `ways` has them.
    """
    if len(craft.sources) != 1 or len(ways.run_ids) != len(craft.loads) or not ways.single:
        return None
    stands_open = np.array([piece.open for piece in craft.pieces], dtype=bool)
    for key, state in scenario.contacts.items():
        if key in ways.column:
            stands_open[ways.column[key]] = state == "open"
    cut = (ways.passes & stands_open).any(axis=1)
    drawn = np.zeros(len(ways.run_ids))
    for load in craft.loads:
        row = ways.row[load.id]
        if load.id not in scenario.on or cut.item(row):
            continue
        if load.behaviour != "constant_current" or load.current_a is None or load.load_ohm:
            return None
        times = (load.start_multiple or 1.0) if load.id in scenario.starting else 1.0
        drawn[row] = load.current_a * times
    return drawn @ ways.passes, drawn
