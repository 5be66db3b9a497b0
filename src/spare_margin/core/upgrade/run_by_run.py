"""A whole craft put right run by run: each that is over by its own recommendation, the worst one first.

What one run's repair does to the others counts before the next is looked at: a trunk made thicker, or a
return taken off it, may have put others right along with it.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from spare_margin.core.budget.scenarios import drops_out
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import traced
from spare_margin.core.evidence.outlook.as_measured import Measured
from spare_margin.core.evidence.response.circuits import Adjusted
from spare_margin.core.evidence.verdict.planned import kept_elements, of_kept
from spare_margin.core.least import ROUNDING
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import Craft
from spare_margin.core.model.tables import Tables
from spare_margin.core.walk.regulated import regulated

from .bench import Bench, least_spares
from .candidates import Candidate, all_worked
from .offers import Offers
from .ranking import ranked

MOST_VISITS = 2
"""A run whose repair another's undoes is put right once more, and no more often."""


@dataclass(frozen=True, slots=True)
class Repair:
    """One run put right: the load, what was taken, and the least spare of the run before (V)."""

    load: str
    taken: Candidate
    before_v: float


@dataclass(frozen=True, slots=True)
class RunByRun:
    """How far a craft is put right.

    Attributes:
        craft: the wiring with all repairs so far.
        repairs: in the order in which they were chosen.
        beyond: loads whose runs were looked at and are still over, or still get too little to work.
        over: those still to be looked at.
        done: whether nothing is left to do.
    """

    craft: Craft
    repairs: tuple[Repair, ...]
    beyond: tuple[str, ...]
    over: tuple[str, ...]
    done: bool


def run_by_run(
    craft: Craft,
    tables: Tables,
    limits: Limits,
    point: Adjusted,
    suspects: Mapping[str, float],
    a_minute: float,
    also: frozenset[str] = frozenset(),
) -> Iterator[RunByRun]:
    """Put the runs of a craft right one after the other; how far it is, after every candidate worked out.

    Args:
        point: the craft as measured.
        suspects: how likely each element is at fault, by id.
        a_minute: what a minute of work costs.
        also: ids that are taken in other wirings of the job.
        tables: the reference tables.
        limits: the limits that its runs are held to.
    """
    repairs: list[Repair] = []
    helpless: set[str] = set()
    visits: dict[str, int] = {}
    while True:
        over = _over(craft, tables, limits, point)
        waiting = [k for k in over if k not in helpless and visits.get(k, 0) < MOST_VISITS]
        beyond = tuple(k for k in over if k not in waiting)
        stands = RunByRun(craft, tuple(repairs), beyond, tuple(waiting), not waiting)
        yield stands
        if not waiting:
            return
        load = waiting[0]
        visits[load] = visits.get(load, 0) + 1
        bench = Bench(
            craft, load, point, suspects, limits, tables, regulated(craft.load(load).name), also
        )
        ready: list[Candidate] = []
        for made in all_worked(bench, Offers(bench).offered):
            if isinstance(made, Candidate):
                ready.append(made)
            yield stands
        best = ranked(ready, a_minute).best
        taken = next((c for c in ready if c.offer.id == best), None)
        if taken is None:
            helpless.add(load)
            continue
        kept = kept_elements(craft, taken.craft)
        point = of_kept(point, kept)
        suspects = {key: p for key, p in suspects.items() if key in kept}
        craft = taken.craft
        repairs.append(Repair(load, taken, bench.before.spare_v))


def _over(craft: Craft, tables: Tables, limits: Limits, point: Adjusted) -> list[str]:
    """The loads whose runs spend too much, or that get too little to work, the worst first."""
    runs = traced(craft, closed_ohms(craft, tables)).runs
    if not runs:
        return []
    measured = Measured(craft, tables, next(iter(runs.values())), point)
    spares = least_spares(craft, runs, measured, limits)
    short = {key: spare for key, spare in spares.items() if spare < -ROUNDING}
    for scenario in craft.scenarios:
        solved, stalled = measured.solved(scenario.id)
        for key, run in runs.items():
            if key in stalled:
                short[key] = float("-inf")
            elif key in spares and key in scenario.on and solved.solution.elements.current_a(key):
                volts = solved.solution.volts(run.feed_terminal, run.return_terminal)
                if volts is not None and drops_out(run.load, volts):
                    lacking = volts - (run.load.least_v or 0.0)
                    short[key] = min(short.get(key, lacking), lacking)
    return sorted(short, key=lambda key: (short[key], key))
