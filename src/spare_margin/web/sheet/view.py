"""The run sheet: one run of one job, at one stage, in one scenario."""

import math
import time
from typing import Literal

from spare_margin.core.budget.headroom import Headroom, headroom
from spare_margin.core.budget.run_budget import RunBudget, RunBudgets
from spare_margin.core.circuit.network import SolvedCraft
from spare_margin.core.circuit.runs import HELD, misplaced
from spare_margin.core.edit.lines import line_of, loose_ends
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.evidence.verdict.planned import Planned
from spare_margin.core.least import first_least
from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.jobs import Stage
from spare_margin.core.patience import TooLong, at_most
from spare_margin.core.walk.cautions import cautions, raised
from spare_margin.exchange.run_line.text import line_text
from spare_margin.service.job.session import Choice, JobSession, View
from spare_margin.service.job.worked import SolvedWiring
from spare_margin.web.common.cells import JudgedStage
from spare_margin.web.common.models import Foot, ScenarioOut, SheetQuery
from spare_margin.web.common.parts import (
    share_of_ceiling,
    source_out,
    stages_out,
    trouble_words,
)
from spare_margin.web.sheet.columns import Columns
from spare_margin.web.sheet.models import (
    AsMeasured,
    HeadroomOut,
    LoadSwitch,
    RunInList,
    RunOut,
    ScenarioVolts,
    Sheet,
)
from spare_margin.wording.craft import changes, pieces, sheets, workings
from spare_margin.wording.craft.names import fitted_to_drop
from spare_margin.wording.measured.cautions import caution_words
from spare_margin.wording.measured.moments import moment_words
from spare_margin.wording.measured.run_workings import read_working
from spare_margin.wording.measured.verdicts import planned_words

SHOWN_S, OTHERS_S = 10.0, 5.0
"""How long judging the run that is shown may take, and all others together."""
Basis = Literal["predicted", "as_found", "as_left"]


def choice_of(query: SheetQuery) -> Choice:
    """What a query asks for."""
    return Choice(query.run, query.scenario, query.stage, query.on)


class SheetMaker:
    """Makes the sheet of one job from its session; `explained` is the one piece that says how its figures
    came about, None: all do."""

    def __init__(self, session: JobSession, explained: str | None = None) -> None:
        self.session, self.snapshot, self.explained = session, session.snapshot, explained
        self.tables, self.limits = session.tables, session.limits
        self._shown = ""
        self._left: set[tuple[Stage, str]] = set()
        self._until = time.monotonic() + OTHERS_S

    def _judged(self, stage: Stage, run_id: str, seconds: float) -> Judgement | None:
        """What the readings of a stage say of a run; None where that takes too long, which is then told."""
        if (stage, run_id) in self._left:
            return None
        try:
            with at_most(seconds):
                return self.session.judgement(stage, run_id)
        except TooLong:
            self._left.add((stage, run_id))
            return None

    def pass_of(
        self, stage: Stage, view: View, run_id: str, seconds: float = SHOWN_S
    ) -> JudgedStage | None:
        """The readings of a stage on a run; None where that stage has no such run."""
        held = self.session.standing_in(stage)
        solved = self.session.solved(held, view)
        budget = solved.budgets.get(run_id)
        if budget is None:
            return None
        readings = self.snapshot.readings_of(stage)
        judged = self._judged(stage, run_id, seconds) if readings else None
        head = self.session.head(held)
        return JudgedStage(stage, head.id, budget, judged, readings, solved.craft)

    def sheet(self, query: SheetQuery) -> Sheet:
        """The whole sheet. JobError where the query names what is not there."""
        session = self.session
        view = session.view(choice_of(query))
        solved = session.solved(view.stage, view)
        run_id = session.run_of(view.run, solved)
        self._shown = run_id
        job, craft, head = session.job, solved.craft, session.head(view.stage)
        steps = self.snapshot.steps.get(view.stage, (False, False))
        run = self._run(run_id, view, solved)
        read: Stage = "as_left" if view.stage == "as_left" else "as_found"
        judged = self._judged(read, run_id, SHOWN_S) if self.snapshot.readings_of(read) else None
        found = frozenset() if judged is None else raised(judged)
        return Sheet(
            job=job.id,
            title=job.title,
            complaint=job.complaint.what,
            complaint_when=job.complaint.when,
            complaint_conditions=job.complaint.conditions,
            craft=craft.kind,
            nominal_v=craft.nominal_v,
            polarity=craft.polarity,
            limit_set=self.limits.limit_set.name,
            limit_set_id=self.limits.limit_set.id,
            limit_why=self.limits.limit_set.why,
            stage=view.stage,
            revision=head.id,
            stages=stages_out(self.snapshot),
            can_undo=steps[0],
            can_redo=steps[1],
            scenario=view.scenario.id,
            scenarios=[
                ScenarioOut(id=s.id, name=s.name, on=[x.id for x in craft.loads if x.id in s.on])
                for s in craft.scenarios
            ],
            loads=[
                LoadSwitch(
                    id=load.id,
                    name=load.name,
                    on=load.id in view.scenario.on,
                    current_a=abs(solved.solution.elements.current_a(load.id)),
                )
                for load in craft.loads
            ],
            toggled=view.toggled,
            runs=self.listed(view, solved),
            run=run,
            trouble=trouble_words(solved),
            notices=self._notices(solved),
            cautions=caution_words(
                cautions(craft, run.load.current_a, view.stage, craft.load(run_id), found)
            ),
            meter=session.meter.name,
        )

    def _notices(self, solved: SolvedWiring) -> list[str]:
        craft, wrong = solved.craft, misplaced(solved.runs.values())
        return [
            *([sheets.NOT_JUDGED] if self._left else []),
            *(sheets.misplaced_words(p, wrong[p.id]) for p in craft.pieces if p.id in wrong),
            *sheets.loose_words(craft, [p.id for p in loose_ends(craft)]),
            *(sheets.in_series_words(solved.load_names[key]) for key in solved.solved.stood_in),
        ]

    def listed(self, view: View, solved: SolvedWiring) -> list[RunInList]:
        """All runs, least spare first, those that are off last."""
        out = []
        read = self._read(view)
        for run_id, run in solved.runs.items():
            spend = solved.budgets.spend(run_id)
            on = solved.solution.elements.current_a(run_id) != 0
            spare = _finite(spend.spare_v) if on and not run.guessed else None
            verdict: Verdict = "not_measured"
            if spare is not None:
                verdict = "over" if spare < 0 else "within"
            measured = self._measured_pass(view, run_id) if read else None
            plan = self._planned(view, run_id) if measured is None and on else None
            if plan is not None:
                known = plan.verdict != "not_measured"
                spare = _finite(_least(plan.spares)[0]) if known else None
                verdict = plan.verdict
            if (view.stage, run_id) in self._left:
                spare, verdict = None, "not_measured"
            elif measured is not None and measured.judgement is not None:
                verdict = measured.verdict
                if measured.judgement.spare is not None and verdict in ("within", "over"):
                    spare = measured.judgement.spare[0]
            out.append(
                RunInList(
                    id=run_id,
                    name=run.load.name,
                    on=on,
                    spare_v=spare,
                    spent_share=spend.share if on and not run.guessed else None,
                    verdict=verdict,
                    measured=measured is not None,
                )
            )
        return sorted(out, key=lambda r: (not r.on, r.spare_v if r.spare_v is not None else 1e9))

    def _read(self, view: View) -> bool:
        """Whether anything was read on the stage on screen."""
        return view.stage != "planned" and bool(self.snapshot.readings_of(view.stage))

    def _measured_pass(self, view: View, run_id: str) -> JudgedStage | None:
        """The pass that the stage on screen is judged by, if anything was read at this load."""
        if not self._read(view) or not self.session.measured_on(view.stage, run_id):
            return None
        others_s = max(self._until - time.monotonic(), 0.0)
        held = self._shown == run_id
        made = self.pass_of(view.stage, view, run_id, SHOWN_S if held else others_s)
        return made if made is not None and made.measured else None

    def _run(self, run_id: str, view: View, solved: SolvedWiring) -> RunOut:
        budget = solved.budgets[run_id]
        found, left = self.pass_of("as_found", view, run_id), self.pass_of("as_left", view, run_id)
        measured = self._measured_pass(view, run_id)
        spare, under = _least(budget.spares())
        basis: Basis = "predicted"
        shown, state = budget, solved.solved
        read_v = None
        load_v: float | None = budget.load_v
        judged = measured.judgement if measured is not None else None
        if measured is not None and judged is not None:
            basis = "as_left" if measured.stage == "as_left" else "as_found"
            spare, under = judged.spare or (math.inf, "")
        told = judged is not None and judged.verdict in ("within", "over")
        if measured is not None and judged is not None and told:
            foot = measured.foot()
            load_v = foot.load_v if foot.load_v is not None else budget.load_v
            read_v = foot.load_v
            shown, state = self._as_measured_budget(judged, solved)
        room = self._room(state, shown)
        verdict, says = self._verdict(budget, measured, spare, under)
        free = run_id in self.limits.during(solved.craft, view.scenario).free
        if free and measured is None and budget.current_a and not budget.run.guessed:
            verdict, says = sheets.while_starting(budget)
        plan = self._planned(view, run_id) if measured is None and budget.current_a else None
        if plan is not None:
            verdict, says = plan.verdict, planned_words(plan)
            known = plan.spares if plan.verdict != "not_measured" else {}
            spare, under = _least(known)
        guessed = budget.run.guessed
        unread = (
            judged.unread if told and judged is not None else frozenset(HELD if guessed else ())
        )
        if unread:
            load_v = read_v
        if guessed and measured is None and plan is None:
            spare = math.inf
        parts = Columns(
            solved, budget, self.limits, self.tables, found, left, self._change_of, self.explained
        )  # fmt: skip
        columns = parts.columns()
        empty = JudgedStage("as_found", "", budget, None, [], solved.craft)
        return RunOut(
            load=parts.load((read_v, self._read_in(judged)) if told else None),
            source=source_out(budget, solved),
            columns=columns,
            folds=parts.folds(columns),
            sides=[parts.side(each) for each in budget.sides],
            spare_v=_finite(spare),
            spare_share=None if _finite(spare) is None else share_of_ceiling(spare, under, budget),
            spare_under=pieces.side_word(under),
            basis=basis,
            load_v=load_v,
            round_trip_ceiling_v=budget.ceilings.round_trip_v,
            verdict=verdict,
            verdict_says=says,
            headroom=HeadroomOut(
                amperes=room.amperes,
                amperes_until=workings.until_words(room.amperes_until, budget),
                metres=room.metres,
                metres_until=workings.until_words(room.metres_until, budget),
            ),
            measured=self._planned_out(plan) if plan else self._as_measured(measured),
            found=(found or empty).out(),
            left=(left or empty).out(),
            predicted=Foot(
                basis="predicted",
                source_v=budget.source_v,
                feed_v=None if guessed else budget.feed.drop_v + budget.feed.purpose_v,
                load_v=None if guessed else budget.load_v,
                return_v=None if guessed else budget.back.drop_v + budget.back.purpose_v,
                unaccounted_v=None if guessed else 0.0,
                closes=None if guessed else True,
                by_difference=[],
                holds=fitted_to_drop(budget.run),
            ),
            working=self._working(judged if told else None, shown, room, read_v),
            text=line_text(line_of(solved.craft, budget.run)),
        )

    def _working(
        self, judged: Judgement | None, budget: RunBudget, room: Headroom, read_v: float | None
    ) -> list[workings.WorkingLine]:
        if judged is not None:
            return read_working(judged, budget, room, self.limits, read_v)
        if budget.run.guessed:
            return []
        return workings.run_working(budget, room, self.limits)

    @staticmethod
    def _read_in(judged: Judgement | None) -> str:
        """The scenario of the moment that counts, by name."""
        conditions = None if judged is None else judged.conditions
        return "" if conditions is None else conditions.scenario.name

    def _room(self, solved: SolvedCraft, budget: RunBudget) -> Headroom:
        if not budget.current_a or budget.run.guessed:
            return Headroom()
        return headroom(solved, budget, self.limits, self.session.tables)

    def _as_measured_budget(
        self, judged: Judgement, solved: SolvedWiring
    ) -> tuple[RunBudget, SolvedCraft]:
        """The run's budget in its worst scenario, by the craft as measured, and that craft."""
        state, _ = judged.measured.solved(judged.worst.id)
        budgets = RunBudgets(
            state.craft, solved.runs, state.solution, self.limits, self.session.tables
        )
        return budgets[judged.run.load.id], state

    @staticmethod
    def _verdict(
        budget: RunBudget, measured: JudgedStage | None, spare: float, under: str
    ) -> tuple[Verdict, str]:
        if measured is not None:
            return measured.verdict, measured.says()
        if budget.run.guessed and budget.current_a:
            return "not_measured", sheets.not_predicted_words(budget.run)
        if not budget.current_a:
            return "not_loaded", sheets.OFF_HERE
        if not budget.spares():
            return "not_measured", sheets.NO_LIMIT
        return "over" if spare < 0 else "within", sheets.predicted_words(budget, spare, under)

    def _change_of(self, piece_id: str) -> str:
        """What the latest stage changes in this piece against as found."""
        heads = self.snapshot.heads
        found, latest = heads.get("as_found"), heads[self.snapshot.latest]
        if found is None or found is latest:
            return ""
        old = next((p for p in found.craft.pieces if p.id == piece_id), None)
        new = next((p for p in latest.craft.pieces if p.id == piece_id), None)
        if old is None or new is None or old == new:
            return ""
        return changes.how_changed(old, new)

    def _planned(self, view: View, run_id: str) -> Planned | None:
        """A changed wiring with what was measured as found of the pieces it keeps."""
        if view.stage == "as_found":
            return None
        made = self.session.planned(view.stage, run_id)
        return made[1] if made else None

    @staticmethod
    def _planned_out(plan: Planned) -> AsMeasured:
        craft = plan.measured
        return AsMeasured(
            stage="planned",
            worst=plan.worst.name,
            scenarios=[
                ScenarioVolts(
                    scenario=s.id,
                    name=s.name,
                    load_v=craft.load_v[s.id],
                    spare_v=_finite(craft.spare(s.id, plan.ceilings)),
                )
                for s in craft.craft.scenarios
                if s.id in craft.load_v and not plan.unread
            ],
            moments=[],
            amps=None,
            amps_doubt=None,
        )

    def _as_measured(self, measured: JudgedStage | None) -> AsMeasured | None:
        """What the run does in every scenario with the craft as measured."""
        if measured is None or measured.judgement is None:
            return None
        judged = measured.judgement
        each = judged.by_scenario()
        return AsMeasured(
            stage=measured.stage,
            worst=judged.worst.name,
            scenarios=[
                ScenarioVolts(
                    scenario=s.id, name=s.name, load_v=each[s.id][0], spare_v=each[s.id][1]
                )
                for s in measured.craft.scenarios
                if s.id in each and each[s.id][0] is not None
            ],
            moments=[moment_words(c, measured.craft) for c in judged.observed.conditions],
            amps=judged.amps[0] if judged.amps else None,
            amps_doubt=judged.amps[1] if judged.amps else None,
        )


def _least(spares: dict[str, float]) -> tuple[float, str]:
    if not spares:
        return float("inf"), ""
    under = first_least(spares, lambda name: spares[name])
    return spares[under], under


def _finite(value: float) -> float | None:
    return value if abs(value) < 1e9 else None
