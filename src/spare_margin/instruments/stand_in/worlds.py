"""What the stand-in reads: a craft that somebody has drawn, with faults that only the meter knows."""

import math
from collections.abc import Mapping

from spare_margin.core.bay.world import Fault, World
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import traced
from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import Moment
from spare_margin.core.model.pieces import Craft
from spare_margin.core.model.tables import Tables

MOMENT = "now"


def world_of(
    craft: Craft, tables: Tables, run: str, scenario: str, faults: Mapping[str, float]
) -> World:
    """A craft as it truly is: as drawn, and so many ohms more in some pieces.

    Args:
        craft: the wiring.
        tables: the reference tables.
        run: the id of the load whose run is read.
        scenario: the id of the state that it is in.
        faults: ohms on top, by piece; infinite where it is open.

    JobError where there is no such run, state or piece.
    """
    ohms = closed_ohms(craft, tables)
    runs = traced(craft, ohms).runs
    if run not in runs:
        raise JobError("run", f"there is no run {run}", ", ".join(runs))
    states = {s.id for s in craft.scenarios}
    if scenario not in states:
        raise JobError("scenario", f"there is no {scenario}", ", ".join(sorted(states)))
    for piece, more in faults.items():
        if piece not in ohms or not (more >= 0 or math.isinf(more)):
            raise JobError("fault", f"there is no piece {piece}", ", ".join(ohms))
    return World(
        craft, tables, runs[run], ohms, {}, tuple(Fault(p, r) for p, r in faults.items()),
        (Moment(id=MOMENT, scenario=scenario, warm_min=1.0),), 0.0,
    )  # fmt: skip
