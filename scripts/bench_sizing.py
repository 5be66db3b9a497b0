"""Prints how long sizing takes against the size of a craft, and the gap that is left."""

import random
import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))

from spare_margin.core.sizing.held_states import lines_of
from spare_margin.core.sizing.programme import Effort
from spare_margin.core.sizing.sizes_tried import tried
from spare_margin.core.sizing.sizing import Unsizable, size_conductors
from spare_margin.core.sizing.task import Task, units_of
from tests.trees import EVERY_LAW, least_copper, tree

CRAFTS = (
    (2, 4, 1, ("constant_current",)), (10, 20, 1, ("constant_current",)),
    (10, 20, 3, ("constant_current",)), (40, 60, 2, ("constant_current",)),
    (10, 20, 2, EVERY_LAW),
)  # fmt: skip
SEEDS, EFFORT_S, TIMES, LOOSER = 3, 10.0, 2.0, 1.3


def sizable(trunks: int, loads: int, scenarios: int, laws: tuple[str, ...], seed: int) -> Task:
    """A craft of shared trunks whose ceilings are just loose enough for the thickest wire to keep."""
    times = TIMES
    while True:
        craft, ceilings = tree(random.Random(seed), trunks, loads, laws, scenarios, times)  # type: ignore[arg-type]
        task = least_copper(craft, ceilings)
        lines = lines_of(task, units_of(task))
        thick = {w.id: unit.sizes[-1] for unit in units_of(task) for w in unit.wires}
        kept = all(line.least() <= line.left for line in lines.lines)
        if kept and not tried(task, thick).missed:
            return task
        times *= LOOSER


def sizing() -> None:
    """Seconds, rounds and gap by conductors and loads; one trial of the same craft is the unit of time."""
    print("Sizing for least copper, 15 sizes each: seconds, in trials of the same craft, gap")
    for trunks, loads, scenarios, laws in CRAFTS:
        for seed in range(SEEDS):
            task = sizable(trunks, loads, scenarios, laws, seed)
            start = time.perf_counter()
            try:
                made = size_conductors(task, Effort(EFFORT_S))
            except Unsizable:
                continue
            took = time.perf_counter() - start
            start = time.perf_counter()
            tried(task, made.sizes)
            trial = time.perf_counter() - start
            sure = "proven" if made.proven else f"gap {made.gap * 100:.2f} %"
            drawn = "mixed loads" if len(laws) > 1 else "steady loads"
            print(
                f"  {len(task.options):4d} conductors {loads:3d} loads {scenarios} scenarios {drawn}"
                f"  {took:6.2f} s  {took / trial:8.0f} x  {made.rounds:3d} rounds  {sure}"
            )


if __name__ == "__main__":
    sizing()
