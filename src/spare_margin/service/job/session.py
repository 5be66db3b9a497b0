"""The session of a job: opened in one snapshot; it gives solved wirings, budgets and judgements."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, replace

from spare_margin.core.budget.allowances import CopperOhms, FixedShares
from spare_margin.core.budget.loops import Loops
from spare_margin.core.budget.scenarios import ScenarioState
from spare_margin.core.budget.steady_currents import Steady
from spare_margin.core.circuit.runs import Read
from spare_margin.core.errors import JobError
from spare_margin.core.evidence.response.circuits import AS_DRAWN
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.evidence.verdict.planned import Planned
from spare_margin.core.model.jobs import STAGES, Revision, Stage
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.meters import Meter
from spare_margin.core.model.pieces import Scenario
from spare_margin.core.model.tables import Tables
from spare_margin.core.protection.checks import Protection
from spare_margin.core.upgrade.bench import Bench
from spare_margin.core.walk.regulated import regulated
from spare_margin.service.job.caches import Caches
from spare_margin.service.job.judging import Judging, planned_by, stale_of
from spare_margin.service.job.revising import taken_ids
from spare_margin.service.job.snapshot import JobSnapshot
from spare_margin.service.job.worked import SolvedWiring, WorkedCraft
from spare_margin.service.upgrade.upgrading import Upgrading


@dataclass(frozen=True, slots=True)
class Choice:
    """What is asked to be shown: a run, a scenario, a stage, and loads that are on instead (ids)."""

    run: str | None = None
    scenario: str | None = None
    stage: Stage | None = None
    on: str | None = None


@dataclass(frozen=True, slots=True)
class View:
    """What is shown, every choice made; `toggled` where other loads are on than the scenario says."""

    stage: Stage
    scenario: Scenario
    toggled: bool
    run: str | None


class JobSession:
    """One job, opened. Solves and judges each wiring once, and only when something asks for it."""

    def __init__(self, snapshot: JobSnapshot, tables: Tables, meter: Meter, caches: Caches) -> None:
        self.snapshot, self.tables, self.meter, self.caches = snapshot, tables, meter, caches
        self.job = snapshot.job
        limit_set = tables.limit_sets[snapshot.job.limit_set]
        self.limits = Limits(limit_set, snapshot.job.own_limits)

    def with_heads(self, heads: Mapping[Stage, Revision], made: Revision) -> "JobSession":
        """The same job as it would be with a revision that is not kept."""
        revisions = {**self.snapshot.revisions, made.id: made}
        passing = replace(self.snapshot, heads=heads, revisions=revisions)
        return JobSession(passing, self.tables, self.meter, self.caches)

    # What is shown

    def view(self, choice: Choice) -> View:
        """A choice checked and completed. JobError names one that the job does not have."""
        snapshot = self.snapshot
        stage = snapshot.latest
        if choice.stage is not None and choice.stage in snapshot.heads:
            stage = choice.stage
        craft = snapshot.heads[stage].craft
        try:
            wanted = choice.scenario or craft.used_in(choice.run).id
            scenario = craft.scenario(wanted)
        except KeyError:
            raise JobError(
                "scenario", f"there is no {choice.scenario}", "a scenario of the job"
            ) from None
        if choice.on is None:
            return View(stage, scenario, False, choice.run)
        loads = {load.id for load in craft.loads}
        on = frozenset(filter(None, choice.on.split(",")))
        if on - loads:
            raise JobError(
                "on", f"there is no load {', '.join(sorted(on - loads))}", "ids of loads"
            )
        return View(stage, replace(scenario, on=on), on != scenario.on, choice.run)

    def head(self, stage: Stage) -> Revision:
        """The wiring of a stage as it stands."""
        return self.snapshot.heads[stage]

    def limits_key(self) -> Hashable:
        """What the job's limits are told by."""
        own = tuple((k, v) for k, v in sorted(self.job.own_limits.items()))
        return self.limits.limit_set.id, own

    def solved(self, stage: Stage, view: View) -> SolvedWiring:
        """A stage's wiring in the scenario that is shown."""
        head, scenario = self.head(stage), view.scenario
        key = (
            self.job.id, head.id, scenario.id, scenario.on, tuple(sorted(scenario.contacts.items())),
            self.tables, self.limits_key(),
        )  # fmt: skip
        made: SolvedWiring = self.caches.solved(
            key,
            lambda: SolvedWiring(
                self.worked(stage), scenario, copper=lambda: self._copper(stage, view)
            ),
        )
        return made

    def worked(self, stage: Stage) -> WorkedCraft:
        """A stage's wiring as it hangs together; what an edit left alone is taken over from before it."""
        head = self.head(stage)

        def key(revision: str | None) -> Hashable:
            return "worked", self.job.id, revision, self.tables, self.limits_key()

        def make() -> WorkedCraft:
            before: WorkedCraft | None = self.caches.known(key(head.parent))
            return WorkedCraft(head.craft, self.limits, self.tables, before)

        made: WorkedCraft = self.caches.solved(key(head.id), make)
        return made

    def states(self, stage: Stage) -> list[ScenarioState]:
        """A stage's wiring solved in each of its scenarios."""
        each = (View(stage, s, False, None) for s in self.head(stage).craft.scenarios)
        return [self.solved(stage, view).state for view in each]

    def _copper(self, stage: Stage, view: View) -> CopperOhms:
        """What the conductors of a stage's wiring may have, over all its scenarios and what is shown."""
        head = self.head(stage)
        shown = view.scenario.on if view.toggled else None
        key = ("copper", self.job.id, head.id, shown, self.tables, self.limits_key())

        def make() -> CopperOhms:
            here, worked = self.solved(stage, view), self.worked(stage)
            loops, moments = worked.loops, []
            if view.toggled:
                moments.append(FixedShares.at(loops.during(view.scenario), here.solution))
            seen: list[tuple[Steady, Loops]] = []
            for scenario in head.craft.scenarios:
                # A piece of unknown length is allowed what it drops: that must be solved.
                currents = None if loops.own.any() else worked.steady.at(scenario)
                held = loops.during(scenario)
                if currents is not None:
                    if not any(currents is c and held is h for c, h in seen):
                        moments.append(FixedShares(held, *currents))
                    seen.append((currents, held))
                    continue
                solved = self.solved(stage, View(stage, scenario, False, None))
                moments.append(FixedShares.at(held, solved.solution))
            return CopperOhms(moments)

        made: CopperOhms = self.caches.solved(key, make)
        return made

    def protection(self, stage: Stage) -> Protection:
        """The fuses of a stage's wiring against what they protect, in all its scenarios."""
        head = self.head(stage)
        key = ("protection", self.job.id, head.id, self.tables)

        def make() -> Protection:
            solutions = [state.solution for state in self.states(stage)]
            return Protection(head.craft, self.worked(stage).runs, solutions, self.tables)

        made: Protection = self.caches.solved(key, make)
        return made

    def upgrading(self, run_id: str) -> Upgrading:
        """The upgrade bench of a run of the wiring as found, by what was read of it.

        JobError where there is no such run, or its load is on in no scenario.
        """
        judging = self.judging("as_found")
        if run_id not in judging.runs:
            raise JobError("run", f"there is no run {run_id}", ", ".join(judging.runs))
        key = ("upgrade", *self._wiring_key("as_found"), run_id)

        def make() -> Upgrading:
            point, suspects = AS_DRAWN, dict[str, float]()
            read: Read = {}
            if self.measured_on("as_found", run_id):
                found = judging.judge(run_id)
                if found.verdict != "not_judged":
                    point, read = found.measured.point, {run_id: found.unread}
                    suspects = {k: p for k, p in found.suspicion.items() if k is not None}
            load = judging.craft.load(run_id)
            return Upgrading(
                Bench(
                    judging.craft, run_id, point, suspects, self.limits, self.tables,
                    regulated(load.name), taken_ids(self.snapshot), read,
                )
            )  # fmt: skip

        made: Upgrading = self.caches.judged(key, make)
        return made

    def run_of(self, wanted: str | None, solved: SolvedWiring) -> str:
        """The run that is wanted, else the one to start with. JobError where it is not there."""
        if not solved.budgets:
            raise JobError("run", solved.unclosed or "the craft has no run", "a craft with a load")
        run_id = wanted or self.default_run(solved)
        if run_id not in solved.budgets:
            raise JobError("run", f"there is no run {run_id}", ", ".join(solved.budgets))
        return run_id

    def default_run(self, solved: SolvedWiring) -> str:
        """The run at whose load most was read; else the one with least spare."""

        def weight(run_id: str) -> tuple[int, float]:
            run = solved.runs[run_id]
            ends = {run.feed_terminal, run.return_terminal}
            touched = sum(1 for r in self.snapshot.readings if ends & {r.red, r.black})
            loaded = solved.solution.elements[run_id].current_a != 0
            return (-touched, solved.budgets.spend(run_id).spare_v if loaded else 1e9)

        return min(solved.budgets, key=weight)

    # What was read

    def standing_in(self, stage: Stage) -> Stage:
        """The stage whose wiring readings are judged on: before there is one as left, the plan."""
        if stage in self.snapshot.heads:
            return stage
        if stage == "as_left" and "planned" in self.snapshot.heads:
            return "planned"
        return next(s for s in STAGES if s in self.snapshot.heads)

    def judging(self, stage: Stage) -> Judging:
        """Everything that was read on a stage, ready to judge any of its runs."""
        snapshot = self.snapshot
        head = self.head(self.standing_in(stage))
        readings = snapshot.readings_of(stage)

        def make() -> Judging:
            stale = stale_of(stage, readings, head, snapshot.revisions)
            return Judging(
                head.craft, readings, snapshot.moments, snapshot.trials_of(stage), self.limits,
                self.tables, stale,
            )  # fmt: skip

        made: Judging = self.caches.judged(self._wiring_key(stage), make)
        return made

    def _wiring_key(self, stage: Stage) -> tuple[Hashable, ...]:
        """What a judgement of a stage rests on."""
        head = self.head(self.standing_in(stage))
        ids = tuple(r.id for r in self.snapshot.readings_of(stage))
        ids += tuple(t.id for t in self.snapshot.trials_of(stage))
        return (self.job.id, head.id, stage, ids, self.tables, self.limits_key())

    def measured_on(self, stage: Stage, run_id: str) -> bool:
        """Whether anything was read at the load of a run on a stage."""
        judging = self.judging(stage)
        run = judging.runs.get(run_id)
        if run is None:
            return False
        own = {run.feed_terminal, run.return_terminal}
        return any(own & {r.red, r.black} for r in judging.readings)

    def judgement(self, stage: Stage, run_id: str) -> Judgement | None:
        """What the readings of a stage say of a run; None where it has no such run."""
        judging = self.judging(stage)
        return judging.judge(run_id) if run_id in judging.runs else None

    def planned(self, stage: Stage, run_id: str) -> tuple[Judgement, Planned] | None:
        """A changed wiring as it would do with what was measured as found of the pieces it keeps.

        None where nothing was read of the run as found, or one of the two wirings lacks it.
        """
        found, plan = self.judging("as_found"), self.bare(stage)
        if run_id not in found.runs or run_id not in plan.runs:
            return None
        if not self.measured_on("as_found", run_id) or found.judge(run_id).verdict == "not_judged":
            return None
        key = (*self._wiring_key("as_found"), self.head(stage).id, run_id)
        made: tuple[Judgement, Planned] | None = self.caches.judged(
            key, lambda: planned_by(found, plan, run_id)
        )
        return made

    def bare(self, stage: Stage) -> Judging:
        """A stage's wiring with nothing read on it."""
        key = ("bare", self.job.id, self.head(stage).id, self.tables, self.limits_key())
        made: Judging = self.caches.judged(
            key, lambda: Judging(self.head(stage).craft, (), (), (), self.limits, self.tables)
        )
        return made
