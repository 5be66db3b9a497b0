"""Judging runs by readings: the craft, its runs and budgets laid out once for all of them."""

from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from functools import cached_property
from threading import Lock

from spare_margin.core.bounds.held import RunLimits
from spare_margin.core.budget.allowances import CopperOhms, FixedShares
from spare_margin.core.budget.loops import Loops
from spare_margin.core.budget.run_budget import RunBudget, RunBudgets
from spare_margin.core.budget.scenarios import ScenarioState, solved_scenario
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import Run, Traced, traced
from spare_margin.core.errors import JobError
from spare_margin.core.evidence.observation.observations import (
    Observed,
    live_readings,
    observe,
)
from spare_margin.core.evidence.observation.together import joined_points
from spare_margin.core.evidence.verdict.diagnosis import Diagnosis, diagnosed
from spare_margin.core.evidence.verdict.judge import judge_run
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.evidence.verdict.planned import Planned, planned
from spare_margin.core.measure.staleness import before_repair, stale_readings
from spare_margin.core.model.jobs import Moment, Reading, Revision, Stage, Trial
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import Craft, Scenario
from spare_margin.core.model.starting import free_in
from spare_margin.core.model.tables import Tables
from spare_margin.core.patience import one_at_a_time
from spare_margin.exchange.job_file.job_file import ReadJob


class Judging:
    """One wiring with everything that was read on it, ready to judge any of its runs."""

    def __init__(
        self,
        craft: Craft,
        readings: Iterable[Reading],
        moments: Iterable[Moment],
        trials: Iterable[Trial],
        limits: Limits,
        tables: Tables,
        stale: Callable[[Run], frozenset[str]] = lambda _: frozenset(),
    ) -> None:
        self.craft, self.limits, self.tables = craft, limits, tables
        self.readings, self.moments, self.trials = list(readings), list(moments), list(trials)
        self.stale = stale
        self._states: dict[str, ScenarioState] = {}
        self._drawn: dict[str, Mapping[str, float]] = {}
        self._budgets: dict[str, RunBudgets] = {}
        self._judged: dict[tuple[str, tuple[str, frozenset[str]] | None], Judgement] = {}
        self._observed: dict[tuple[frozenset[str], frozenset[tuple[str, str]]], Observed] = {}
        self._judging = Lock()

    @cached_property
    def traced(self) -> Traced:
        """The runs of the craft, and who passes each piece."""
        return traced(self.craft, closed_ohms(self.craft, self.tables))

    @property
    def runs(self) -> Mapping[str, Run]:
        """Every run that closes, by load id."""
        return self.traced.runs

    def budget(self, run_id: str, scenario: Scenario) -> RunBudget:
        """The budget of a run in a scenario, its load on."""
        on = scenario if run_id in scenario.on else _with_on(scenario, run_id)
        key = _told_by(on)
        if key not in self._budgets:
            self._budgets[key] = RunBudgets(
                self.craft, self.runs, self._solved(on).solution,
                self.limits.during(self.craft, on), self.tables,
                self._copper if on is scenario else None,
            )  # fmt: skip
        return self._budgets[key][run_id]

    def drawn(self, scenario: Scenario) -> Mapping[str, float]:
        """What each load draws (A) in a scenario by the drawing, by its id."""
        key = _told_by(scenario)
        if key not in self._drawn:
            states = self._solved(scenario).solution.elements
            self._drawn[key] = {x.id: abs(states.current_a(x.id)) for x in self.craft.loads}
        return self._drawn[key]

    def _solved(self, scenario: Scenario) -> ScenarioState:
        key = _told_by(scenario)
        if key not in self._states:
            self._states[key] = solved_scenario(self.craft, scenario, self.tables)
        return self._states[key]

    @cached_property
    def _copper(self) -> CopperOhms:
        """What the conductors may have, over all scenarios."""
        loops = Loops(self.craft, self.runs, self.limits, self.tables)
        return CopperOhms(
            [
                FixedShares.at(loops.during(s), self._solved(s).solution)
                for s in self.craft.scenarios
            ]
        )

    def share(self, like: "Judging") -> None:
        """Take over what was worked out of the same wiring with other readings."""
        self.__dict__["traced"] = like.traced
        self._states, self._drawn, self._budgets = like._states, like._drawn, like._budgets

    def judge(self, run_id: str, scenario: Scenario | None = None) -> Judgement:
        """What the readings say of a run; `scenario` is what will be read in where nothing was yet.

        KeyError where there is no such run; JobError as solve.
        """
        asked = None if scenario is None else (scenario.id, scenario.on)
        # Several may ask at once for the same: it is worked out once.
        with one_at_a_time(self._judging):
            return self._judge(run_id, scenario, asked)

    def _judge(
        self, run_id: str, scenario: Scenario | None, asked: tuple[str, frozenset[str]] | None
    ) -> Judgement:
        held = self._judged.get((run_id, None)) or self._judged.get((run_id, asked))
        if held is not None:
            return held
        run = self.runs[run_id]
        observed = self._observe(run)
        limits = RunLimits(
            self.limits.ceilings(run.load, self.craft.nominal_v),
            lambda each: self.budget(run_id, each), self.drawn,
            self._limited(run),
        )  # fmt: skip
        made = judge_run(
            self.craft, run, self.traced.users, observed, limits, self.tables, scenario,
            self._out_of_reach,
        )  # fmt: skip
        # Once something was read under load, that says in which scenario to read on, whatever is asked.
        self._judged[run_id, None if made.conditions else asked] = made
        return made

    def _limited(self, run: Run) -> list[Scenario]:
        """The scenarios in which a run is held to its limits."""
        return [s for s in self.craft.scenarios if run.load.id not in self._free[s.id]]

    @cached_property
    def _free(self) -> Mapping[str, frozenset[str]]:
        return {s.id: free_in(self.craft, s) for s in self.craft.scenarios}

    def _observe(self, run: Run) -> Observed:
        """What was read of the craft; worked out once for all runs to which it tells the same."""
        stale, forward = self.stale(run), self._forward(run)
        if self._turned is not None:
            forward &= self._turned
        key = stale, forward
        if key not in self._observed:
            self._observed[key] = observe(
                self.craft, self.readings, self.moments, self.trials, stale, forward
            )
        return self._observed[key]

    @cached_property
    def _turned(self) -> frozenset[tuple[str, str]] | None:
        """The pairs of which it matters which way volts fall: read below nothing, or more than once.

        None where any may: where what was read to a free point is put together with another.
        """
        ends = [(r.red, r.black) for r in self.readings]
        if not {p for pair in ends for p in pair} <= joined_points(self.craft):
            return None
        times = Counter(frozenset(pair) for pair in ends)
        told = {
            pair for pair, r in zip(ends, self.readings, strict=True)
            if times[frozenset(pair)] > 1 or (r.value or 0.0) < 0
        }  # fmt: skip
        return frozenset(told | {(black, red) for red, black in told})

    def _forward(self, run: Run) -> frozenset[tuple[str, str]]:
        """Pairs of points over which volts can only fall: none where another source may push back."""
        one = sum(1 for s in self.craft.sources if not s.off) == 1
        return run.forward_spans if one else frozenset()

    @cached_property
    def _out_of_reach(self) -> frozenset[frozenset[str]]:
        """Pairs of points of which somebody said that no lead gets there."""
        live = live_readings(self.readings)
        return frozenset(frozenset((r.red, r.black)) for r in live if r.state == "not_reachable")

    def most_read(self) -> str:
        """The run at whose load most was read, the first of the craft where nothing was.

        JobError where there is no run.
        """
        if not self.runs:
            raise JobError("run", "the craft has no run", "a craft with a load")

        def touched(run_id: str) -> int:
            run = self.runs[run_id]
            ends = {run.feed_terminal, run.return_terminal}
            return sum(1 for r in self.readings if ends & {r.red, r.black})

        return max(self.runs, key=touched)


def planned_by(found: Judging, plan: Judging, run_id: str) -> tuple[Judgement, Planned] | None:
    """What was read of a run as found, and what another wiring would do with the pieces it keeps.

    None where the load is on in no scenario of the plan. KeyError where either lacks the run.
    """
    run, judgement = plan.runs[run_id], found.judge(run_id)
    ceilings = plan.limits.ceilings(run.load, plan.craft.nominal_v)
    made = planned(judgement, plan.craft, run, ceilings)
    return None if made is None else (judgement, made)


def _told_by(scenario: Scenario) -> str:
    """What tells a scenario from others of the same craft: what is on, starting, and closed."""
    on, starting = sorted(scenario.on), sorted(scenario.starting)
    return f"{scenario.id} {on} {starting} {sorted(scenario.contacts.items())}"


def _with_on(scenario: Scenario, load: str) -> Scenario:
    return replace(scenario, on=scenario.on | {load})


def judging_of(read: ReadJob, stage: Stage, tables: Tables) -> Judging | None:
    """A job file's wiring of a stage with what was read on it; None where it has no such stage."""
    heads: dict[Stage, Revision] = {r.stage: r for r in read.revisions if r.stage != "as_found"}
    heads["as_found"] = read.revisions[0]
    if stage not in heads:
        return None
    stages = {r.id: r.stage for r in read.revisions}
    readings = [r for r in read.readings if stages[r.revision] == stage]
    trials = [t for t in read.trials if stages.get(t.revision, "as_found") == stage]
    limits = Limits(tables.limit_sets[read.job.limit_set], read.job.own_limits)
    stale = stale_of(stage, readings, heads[stage], {r.id: r for r in read.revisions})
    return Judging(heads[stage].craft, readings, read.moments, trials, limits, tables, stale)


def stale_of(
    stage: Stage, readings: Sequence[Reading], head: Revision, revisions: Mapping[str, Revision]
) -> Callable[[Run], frozenset[str]]:
    """Which readings of a run tell of its wiring no more: as left, those from before it was changed."""
    if stage != "as_left":
        return lambda _: frozenset()
    early = before_repair(readings, revisions)
    return lambda run: stale_readings(readings, head, revisions, run) | early


def diagnose(
    craft: Craft, scenario: Scenario, readings: Iterable[Reading], tables: Tables
) -> Diagnosis:
    """What readings of a craft in a scenario make likely. JobError where no load is on."""
    found = traced(craft, closed_ohms(craft, tables))
    return diagnosed(craft, found.runs, scenario, readings, tables)
