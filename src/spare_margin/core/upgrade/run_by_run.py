"""A whole craft put right run by run: each that is over by its own recommendation, the worst one first.

What one run's repair does to the others counts before the next is looked at: a trunk made thicker, or a
return taken off it, may have put others right along with it. What several would each get anew, they get
once where that is cheaper.
"""

from collections.abc import Generator, Iterator, Mapping
from dataclasses import dataclass, replace

from spare_margin.core.budget.scenarios import drops_out
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import NOTHING_READ, Read, not_known, traced
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
from .ranking import cost, ranked
from .sharing import Wanted, sharings

MOST_VISITS = 2
"""A run whose repair another's undoes is put right once more, and no more often."""


@dataclass(frozen=True, slots=True)
class Repair:
    """One run put right, or several that share what is new.

    Attributes:
        load: the load of the run.
        taken: what was taken.
        before_v: the least spare of the run before (V).
        others: the loads that share it.
        alone: the repairs that it stands for, one run at a time.
    """

    load: str
    taken: Candidate
    before_v: float
    others: tuple[str, ...] = ()
    alone: "tuple[Repair, ...]" = ()

    @property
    def spares(self) -> tuple[float, float | None]:
        """The least spare before and after of all the runs that it puts right (V); None: not known."""
        more = [self.taken.others[key] for key in self.others if key in self.taken.others]
        befores, afters = zip((self.before_v, self.taken.now.spare_v), *more, strict=True)
        return min(befores), None if self.taken.unread else min(afters)


@dataclass(frozen=True, slots=True)
class RunByRun:
    """How far a craft is put right.

    Attributes:
        craft: the wiring with all repairs so far.
        repairs: in the order in which they were chosen.
        beyond: loads whose runs were looked at and are still over, or still get too little to work.
        over: those still to be looked at.
        done: whether nothing is left to do.
        unknown: loads of whose runs nothing can be said: not known, not measured.
        sharing: the loads for which one repair together is being tried.
    """

    craft: Craft
    repairs: tuple[Repair, ...]
    beyond: tuple[str, ...]
    over: tuple[str, ...]
    done: bool
    sharing: tuple[str, ...] = ()
    unknown: tuple[str, ...] = ()


@dataclass(frozen=True)
class Start:
    """What runs are put right from: a wiring as measured, what is suspected, what was repaired already."""

    craft: Craft
    point: Adjusted
    suspects: Mapping[str, float]
    tables: Tables
    limits: Limits
    also: frozenset[str]
    read: Read
    repairs: tuple[Repair, ...] = ()

    def bench(self, load: str) -> Bench:
        """The bench of a run of it.

        Args:
            load: the id of the run's load.
        """
        return Bench(
            self.craft, load, self.point, self.suspects, self.limits, self.tables,
            regulated(self.craft.load(load).name), self.also, self.read,
        )  # fmt: skip

    def after(self, repair: Repair) -> "Start":
        """The same with one more repair made.

        Args:
            repair: what is done.
        """
        craft = repair.taken.craft
        kept = kept_elements(self.craft, craft)
        return replace(
            self, craft=craft, point=of_kept(self.point, kept),
            suspects={key: p for key, p in self.suspects.items() if key in kept},
            repairs=(*self.repairs, repair),
        )  # fmt: skip


def run_by_run(
    craft: Craft,
    tables: Tables,
    limits: Limits,
    point: Adjusted,
    suspects: Mapping[str, float],
    a_minute: float,
    also: frozenset[str] = frozenset(),
    read: Read = NOTHING_READ,
) -> Iterator[RunByRun]:
    """Put the runs of a craft right one after the other; how far it is, after every candidate worked out.

    Args:
        point: the craft as measured.
        suspects: how likely each element is at fault, by id.
        a_minute: what a minute of work costs.
        also: ids that are taken in other wirings of the job.
        read: what was measured, by load.
        tables: the reference tables.
        limits: the limits that its runs are held to.
    """
    start = Start(craft, point, suspects, tables, limits, also, read)
    alone = yield from _one_by_one(start, a_minute)
    best, spent = alone, _spent(alone, a_minute)
    wanted = [
        Wanted(start.bench(r.load), r.taken.offer.moves)
        for r in alone.repairs
        if sum(other.load == r.load for other in alone.repairs) == 1
    ]
    for sharing in sharings(wanted):
        trying = replace(alone, sharing=sharing.loads)
        yield trying
        first, *others = sharing.loads
        bench = start.bench(first)
        taken = next(all_worked(bench, [sharing.offer]), None)
        if not isinstance(taken, Candidate) or not taken.holds or cost(taken, a_minute) >= spent:
            continue
        repair = Repair(
            first, taken, bench.before.spare_v, tuple(others),
            tuple(r for r in alone.repairs if r.load in sharing.loads),
        )  # fmt: skip
        shared = alone
        for stands in _one_by_one(start.after(repair), a_minute):
            shared = stands
            yield trying
        if set(shared.beyond) <= set(alone.beyond) and _spent(shared, a_minute) < spent - ROUNDING:
            best, spent = shared, _spent(shared, a_minute)
    yield replace(best, done=True)


def _spent(stands: RunByRun, a_minute: float) -> float:
    """What all repairs cost, parts and work."""
    return sum(cost(r.taken, a_minute) for r in stands.repairs)


def _one_by_one(start: Start, a_minute: float) -> Generator[RunByRun, None, RunByRun]:
    """Each run that is over by its own best repair, the worst first; how far it is, never called done."""
    helpless: set[str] = set()
    visits: dict[str, int] = {}
    while True:
        over, unknown = _over(start)
        waiting = [k for k in over if k not in helpless and visits.get(k, 0) < MOST_VISITS]
        beyond = tuple(k for k in over if k not in waiting)
        stands = RunByRun(
            start.craft, start.repairs, beyond, tuple(waiting), done=False, unknown=unknown
        )
        yield stands
        if not waiting:
            return stands
        load = waiting[0]
        visits[load] = visits.get(load, 0) + 1
        bench = start.bench(load)
        ready: list[Candidate] = []
        for made in all_worked(bench, Offers(bench).offered):
            if isinstance(made, Candidate):
                ready.append(made)
            yield stands
        best = ranked(ready, a_minute).best
        taken = next((c for c in ready if c.offer.id == best), None)
        if taken is None:
            helpless.add(load)
        else:
            start = start.after(Repair(load, taken, bench.before.spare_v))


def _over(start: Start) -> tuple[list[str], tuple[str, ...]]:
    """The loads whose runs spend too much, or that get too little, the worst first; those not known."""
    craft, tables = start.craft, start.tables
    every = traced(craft, closed_ohms(craft, tables)).runs
    if not every:
        return [], ()
    measured = Measured(craft, tables, next(iter(every.values())), start.point)
    unknown = not_known(every, start.read)
    runs = {key: run for key, run in every.items() if key not in unknown}
    spares = least_spares(craft, every, measured, start.limits, start.read)
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
    return sorted(short, key=lambda key: (short[key], key)), tuple(
        key for key in unknown if key not in spares
    )
