"""Currents that need no solving: where every load holds its current and no two ways share one."""

from collections.abc import Mapping

from spare_margin.core.circuit.runs import Run
from spare_margin.core.model.pieces import Craft, Scenario


def steady_currents(
    craft: Craft, runs: Mapping[str, Run], scenario: Scenario
) -> Mapping[str, float] | None:
    """What each piece and load carries (A) in a scenario, by id; None where that must be solved.

    A piece that stands alone on its way carries the sum of its loads, whatever the ohms.
    """
    if len(craft.sources) != 1 or len(runs) != len(craft.loads):
        return None
    out: dict[str, float] = {}
    for key, run in runs.items():
        load = run.load
        if not run.single_way:
            return None
        if key not in scenario.on or any(scenario.is_open(s.piece) for s in run.steps()):
            continue
        if load.behaviour != "constant_current" or load.current_a is None or load.load_ohm:
            return None
        times = (load.start_multiple or 1.0) if key in scenario.starting else 1.0
        out[key] = load.current_a * times
        for step in run.steps():
            out[step.piece.id] = out.get(step.piece.id, 0.0) + out[key]
    return out
