"""Judging runs by readings: the craft, its runs and budgets laid out once for all of them."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace
from functools import cached_property
from threading import Lock

from spare_margin.core.budget.allowances import CopperOhms, FixedShares
from spare_margin.core.budget.loops import Loops
from spare_margin.core.budget.run_budget import RunBudget, RunBudgets
from spare_margin.core.budget.scenarios import solved_scenario, solved_scenarios
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import Run, traced
from spare_margin.core.errors import JobError
from spare_margin.core.evidence.observation.observations import observe
from spare_margin.core.evidence.verdict.diagnosis import Diagnosis, diagnosed
from spare_margin.core.evidence.verdict.judge import judge_run
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.evidence.verdict.planned import Planned, planned
from spare_margin.core.model.jobs import Moment, Reading, Revision, Stage, Trial
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import Craft, Scenario
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
        self._budgets: dict[str, RunBudgets] = {}
        self._judged: dict[tuple[str, tuple[str, frozenset[str]] | None], Judgement] = {}
        self._judging = Lock()

    @cached_property
    def runs(self) -> Mapping[str, Run]:
        """Every run that closes, by load id."""
        return traced(self.craft, closed_ohms(self.craft, self.tables)).runs

    def budget(self, run_id: str, scenario: Scenario) -> RunBudget:
        """The budget of a run in a scenario, its load on."""
        on = scenario if run_id in scenario.on else _with_on(scenario, run_id)
        key = f"{scenario.id} {sorted(on.on)}"
        if key not in self._budgets:
            state = solved_scenario(self.craft, on, self.tables)
            self._budgets[key] = RunBudgets(
                self.craft, self.runs, state.solution, self.limits, self.tables,
                self._copper if on is scenario else None,
            )  # fmt: skip
        return self._budgets[key][run_id]

    @cached_property
    def _copper(self) -> CopperOhms:
        """What the conductors may have, over all scenarios."""
        loops = Loops(self.craft, self.runs, self.limits, self.tables)
        states = solved_scenarios(self.craft, self.tables)
        return CopperOhms([FixedShares.at(loops, each.solution) for each in states])

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
        observed = observe(
            self.craft, self.readings, self.moments, self.trials, self.stale(run),
            run.forward_spans,
        )  # fmt: skip
        made = judge_run(
            self.craft, run, observed, self.limits, self.tables,
            lambda each: self.budget(run_id, each), scenario,
        )  # fmt: skip
        # Once something was read under load, that says in which scenario to read on, whatever is asked.
        self._judged[run_id, None if made.conditions else asked] = made
        return made

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
    return Judging(heads[stage].craft, readings, read.moments, trials, limits, tables)


def diagnose(
    craft: Craft, scenario: Scenario, readings: Iterable[Reading], tables: Tables
) -> Diagnosis:
    """What readings of a craft in a scenario make likely. JobError where no load is on."""
    found = traced(craft, closed_ohms(craft, tables))
    return diagnosed(craft, found.runs, scenario, readings, tables)
