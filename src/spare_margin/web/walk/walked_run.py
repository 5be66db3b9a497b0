"""Where a walk stands on: the run, the scenario and the wiring that are shown, and what was read of it."""

from collections.abc import Mapping
from functools import cached_property

from spare_margin.core.budget.run_budget import RunBudget
from spare_margin.core.model.jobs import Stage
from spare_margin.core.model.pieces import Craft
from spare_margin.service.job.judging import Judging
from spare_margin.service.job.session import Choice, JobSession
from spare_margin.service.proof.repairing import proving
from spare_margin.web.common.cells import JudgedStage
from spare_margin.web.common.models import Point, SheetQuery
from spare_margin.web.common.parts import point_out
from spare_margin.wording.craft.names import full_names, point_names


class WalkedRun:
    """The run of a walk from the session of its job, with what was read on it."""

    def __init__(self, session: JobSession, query: SheetQuery) -> None:
        self.session = session
        snapshot = session.snapshot
        stage: Stage = "as_left" if query.stage == "as_left" else "as_found"
        if query.stage is None and "as_left" in snapshot.heads:
            stage = "as_left"
        self.stage = stage
        held = session.standing_in(stage)
        scenario = query.scenario or self._usual(held, query.run)
        self.view = session.view(Choice(query.run, scenario, held))
        self.solved = session.solved(held, self.view)
        self.run_id = session.run_of(query.run, self.solved)
        self.budget: RunBudget = self.solved.budgets[self.run_id]
        self.craft: Craft = self.solved.craft
        self.judging: Judging = session.judging(stage)
        self.judgement = self.judging.judge(self.run_id, self.view.scenario)
        self.taken = JudgedStage(
            stage, session.head(held).id, self.budget, self.judgement,
            snapshot.readings_of(stage), self.craft,
        )  # fmt: skip
        self.names = full_names(self.craft, self.budget.run)
        wanted = proving(session, self.run_id, self.view.scenario) if stage == "as_left" else None
        self.proving = wanted.points if wanted else ()
        self.expected = wanted.expected if wanted else {}

    def _usual(self, held: Stage, run: str | None) -> str | None:
        """Where nobody says in which state: that of the last reading, if the run is on in it."""
        snapshot = self.session.snapshot
        last = snapshot.readings[-1].scenario if snapshot.readings else None
        on = [s.id for s in snapshot.heads[held].craft.scenarios if run in s.on]
        return last if run is None or last in on or not on else on[0]

    def own_points(self) -> list[str]:
        """The points of the run's main way, in the current's order."""
        run = self.budget.run
        return list(dict.fromkeys([*run.line["feed"], *run.line["return"]]))

    @cached_property
    def _names(self) -> Mapping[str, str]:
        return point_names(self.craft, self.budget.run)

    def point_out(self, point: str) -> Point:
        """A test point by a name that no other of the run has."""
        made = point_out(self.craft, point)
        return made.model_copy(update={"name": self._names.get(point, made.name)})

    @property
    def source_v(self) -> float | None:
        """What the source was last read at on this stage (V)."""
        run = self.budget.run
        posts = {run.source.live, run.source.back}
        taken = [
            abs(r.value)
            for r in self.taken.readings
            if {r.red, r.black} == posts and r.value is not None and r.quantity == "volts"
        ]
        return taken[-1] if taken else None
