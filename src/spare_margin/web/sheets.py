"""The run sheet: one run of one job, at one stage, in one scenario."""

from dataclasses import dataclass, replace
from typing import Literal

from spare_margin.core.account import Judged, measured_headroom
from spare_margin.core.budget import PieceBudget, RunBudget, SideBudget
from spare_margin.core.drawing import line_of, loose_ends
from spare_margin.core.errors import JobError
from spare_margin.core.headroom import Headroom, headroom
from spare_margin.core.jobs import Stage
from spare_margin.core.limits import Limits
from spare_margin.core.meters import Meter
from spare_margin.core.outlook import drops_out
from spare_margin.core.pieces import (
    Craft,
    Scenario,
    Side,
    called,
    kind_of,
    point_called,
)
from spare_margin.core.readings import Verdict
from spare_margin.core.runs import misplaced
from spare_margin.core.tables import Tables
from spare_margin.exchange.run_line_text import line_text

from . import words
from .bench import JobState, Solved, stale_readings
from .cautions import cautions
from .forms import load_form, piece_form
from .models import (
    Column,
    Foot,
    HeadroomOut,
    LoadOut,
    LoadSwitch,
    Point,
    RunInList,
    RunOut,
    ScenarioOut,
    Sheet,
    SheetQuery,
    SideOut,
    SourceOut,
    StageOut,
)
from .passes import Pass

Basis = Literal["predicted", "as_found", "as_left"]


@dataclass(frozen=True, slots=True)
class View:
    """What is on screen, every choice made."""

    stage: Stage
    scenario: Scenario
    toggled: bool
    run: str | None


class SheetMaker:
    """Makes the sheet of one job. Solves each wiring once in the scenario on screen."""

    def __init__(
        self, state: JobState, tables: Tables, steps: tuple[bool, bool], meter: Meter
    ) -> None:
        self.state, self.tables, self.steps, self.meter = state, tables, steps, meter
        limit_set = tables.limit_sets[state.job.limit_set]
        self.limits = Limits(limit_set, state.job.own_limits)
        self._solved: dict[str, Solved] = {}

    def view(self, query: SheetQuery) -> View:
        """The choices of a query, checked. JobError names one that the job does not have."""
        stage = query.stage if query.stage in self.state.heads else self.state.latest
        craft = self.state.heads[stage].craft
        try:
            scenario = craft.scenario(query.scenario)
        except KeyError:
            raise JobError(
                "scenario", f"there is no {query.scenario}", "a scenario of the job"
            ) from None
        if query.on is None:
            return View(stage, scenario, False, query.run)
        loads = {load.id for load in craft.loads}
        on = frozenset(filter(None, query.on.split(",")))
        if on - loads:
            raise JobError(
                "on", f"there is no load {', '.join(sorted(on - loads))}", "ids of loads"
            )
        return View(stage, replace(scenario, on=on), on != scenario.on, query.run)

    def solved(self, stage: Stage, view: View) -> Solved:
        """A stage's wiring in the scenario on screen."""
        head = self.state.heads[stage]
        if head.id not in self._solved:
            self._solved[head.id] = Solved(head.craft, view.scenario, self.limits, self.tables)
        return self._solved[head.id]

    # One run

    def pass_of(self, stage: Stage, view: View, run_id: str) -> Pass | None:
        """The readings of a stage on a run; None where that stage has no such run."""
        held = stage if stage in self.state.heads else self._standing_in(stage)
        solved = self.solved(held, view)
        budget = solved.budgets.get(run_id)
        if budget is None:
            return None
        head = self.state.heads[held]
        own = self._points_of(budget)
        taken = [r for r in self.state.readings_of(stage) if r.red in own and r.black in own]
        here = [] if view.toggled else [r for r in taken if r.scenario == view.scenario.id]
        stale = frozenset[str]()
        if stage == "as_left":
            stale = stale_readings(here, head, self.state.revisions, budget.run)
        return Pass(
            stage, head.id, budget, here, solved.craft.nominal_v, stale, len(taken) - len(here)
        )

    def _standing_in(self, stage: Stage) -> Stage:
        """Before there is an as-left wiring, the plan's budget is what will be measured against."""
        return "planned" if stage == "as_left" and "planned" in self.state.heads else "as_found"

    @staticmethod
    def _points_of(budget: RunBudget) -> set[str]:
        run = budget.run
        points = {p for s in run.steps() for p in (s.entry, s.exit)}
        return points | {run.source.live, run.source.back, run.feed_terminal, run.return_terminal}

    def default_run(self, solved: Solved) -> str:
        """The run of the complaint, as far as the readings tell; else the one with least spare."""

        def weight(run_id: str) -> tuple[int, float]:
            run = solved.runs[run_id]
            ends = {run.feed_terminal, run.return_terminal}
            touched = sum(1 for r in self.state.readings if ends & {r.red, r.black})
            loaded = solved.solution.elements[run_id].current_a != 0
            return (-touched, solved.budgets.spend(run_id).spare_v if loaded else 1e9)

        return min(solved.budgets, key=weight)

    def run_of(self, wanted: str | None, solved: Solved) -> str:
        """The run that is wanted, else the one to start with. JobError where it is not there."""
        if not solved.budgets:
            raise JobError("run", solved.trouble or "the craft has no run", "a craft with a load")
        run_id = wanted or self.default_run(solved)
        if run_id not in solved.budgets:
            raise JobError("run", f"there is no run {run_id}", ", ".join(solved.budgets))
        return run_id

    def sheet(self, query: SheetQuery) -> Sheet:
        """The whole sheet. JobError where the query names what is not there."""
        view = self.view(query)
        solved = self.solved(view.stage, view)
        run_id = self.run_of(view.run, solved)
        job, craft, head = self.state.job, solved.craft, self.state.heads[view.stage]
        run = self._run(run_id, view, solved)
        held = run.left if view.stage == "as_left" else run.found
        burning = any(f.check == "hot" and "fire hazard" in f.do for f in held.findings)
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
            stages=self.stages(),
            can_undo=self.steps[0],
            can_redo=self.steps[1],
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
                    current_a=abs(solved.solution.elements[load.id].current_a),
                )
                for load in craft.loads
            ],
            toggled=view.toggled,
            runs=self.listed(view, solved),
            run=run,
            trouble=solved.trouble,
            notices=self._notices(solved),
            cautions=cautions(craft, run.load.current_a, view.stage, burning),
            meter=self.meter.name,
        )

    def _notices(self, solved: Solved) -> list[str]:
        wrong = misplaced(list(solved.runs.values()))
        sides = [
            f"{called(p)} is drawn on the other side; it is a {words.side_word(wrong[p.id])} piece."
            for p in solved.craft.pieces
            if p.id in wrong
        ]
        loose = [point_called(solved.craft, p) for p in loose_ends(solved.craft)]
        return sides + [f"{name} leads nowhere yet." for name in loose]

    def stages(self) -> list[StageOut]:
        """The stages the job has, and what each changed."""
        found = self.state.heads["as_found"].craft if "as_found" in self.state.heads else None
        return [
            StageOut(
                stage=stage,
                revision=head.id,
                changes=words.differences(found, head.craft)
                if found and stage != "as_found"
                else [],
            )
            for stage, head in self.state.heads.items()
        ]

    def listed(self, view: View, solved: Solved) -> list[RunInList]:
        """All runs, least spare first, those that are off last."""
        out = []
        for run_id, run in solved.runs.items():
            spend = solved.budgets.spend(run_id)
            on = solved.solution.elements[run_id].current_a != 0
            spare = _finite(spend.spare_v) if on else None
            verdict: Verdict = "not_measured"
            if spare is not None:
                verdict = "over" if spare < 0 else "within"
            measured = self._measured_pass(view, run_id)
            if measured is not None:
                verdict = measured.account.verdict
                spare = _measured_spare(measured)[0] if measured.account.sides else spare
            out.append(
                RunInList(
                    id=run_id,
                    name=run.load.name,
                    on=on,
                    spare_v=spare,
                    spent_share=spend.share if on else None,
                    verdict=verdict,
                    measured=measured is not None,
                )
            )
        return sorted(out, key=lambda r: (not r.on, r.spare_v if r.spare_v is not None else 1e9))

    def _measured_pass(self, view: View, run_id: str) -> Pass | None:
        """The pass that the stage on screen is judged by, if anything on this run was read."""
        if view.stage == "planned" or not self.state.readings:
            return None
        made = self.pass_of(view.stage, view, run_id)
        if made is None or not (made.account.sides or made.account.pieces):
            return None
        own = {made.budget.run.feed_terminal, made.budget.run.return_terminal}
        return made if any(own & {r.red, r.black} for r in made.readings) else None

    def _run(self, run_id: str, view: View, solved: Solved) -> RunOut:
        budget = solved.budgets[run_id]
        found, left = self.pass_of("as_found", view, run_id), self.pass_of("as_left", view, run_id)
        measured = self._measured_pass(view, run_id)
        spare, under = _least(budget.spares())
        basis: Basis = "predicted"
        room = predicted_room = (
            headroom(solved.network, budget, self.limits)
            if budget.current_a
            else Headroom(None, "", None, "")
        )
        load_v: float | None = budget.load_v
        if measured is not None and len(measured.account.sides) == 2:
            basis = "as_left" if measured.stage == "as_left" else "as_found"
            spare, under = _measured_spare(measured)
            room = measured_headroom(measured.budget, measured.account.sides)
            load_v = measured.foot().load_v
        verdict, says = self._verdict(budget, measured, spare, under)
        empty = Pass("as_found", "", budget, [], solved.craft.nominal_v, frozenset(), 0)
        return RunOut(
            load=self._load(budget, solved),
            source=self.source_out(budget, solved),
            columns=[
                self._column(p, side, budget, solved, found, left)
                for side in budget.sides
                for p in side.pieces
            ],
            sides=[self._side(s, solved, found, left) for s in budget.sides],
            spare_v=_finite(spare),
            spare_share=share_of(spare, under, budget),
            spare_under=words.side_word(under),
            basis=basis,
            load_v=load_v,
            round_trip_ceiling_v=budget.ceilings.round_trip_v,
            verdict=verdict,
            verdict_says=says,
            headroom=HeadroomOut(
                amperes=room.amperes,
                amperes_until=words.sided(room.amperes_until),
                metres=room.metres,
                metres_until=words.sided(room.metres_until),
            ),
            found=(found or empty).out(),
            left=(left or empty).out(),
            predicted=Foot(
                basis="predicted",
                source_v=budget.source_v,
                feed_v=budget.feed.drop_v + budget.feed.purpose_v,
                load_v=budget.load_v,
                return_v=budget.back.drop_v + budget.back.purpose_v,
                unaccounted_v=0.0,
                closes=True,
                by_difference=[],
            ),
            working=words.run_working(budget, predicted_room, self.limits),
            text=line_text(line_of(solved.craft, budget.run)),
        )

    @staticmethod
    def _verdict(
        budget: RunBudget, measured: Pass | None, spare: float, under: str
    ) -> tuple[Verdict, str]:
        if measured is not None:
            return measured.account.verdict, words.sided(measured.says())
        if not budget.current_a:
            return "not_loaded", "Off in this scenario: a drop exists only while current flows."
        if spare < 0:
            return "over", f"Predicted: {words.side_word(under)} over by {words.volts(-spare)}."
        over = [
            called(p.step.piece)
            for side in budget.sides
            for p in side.pieces
            if p.spare_v < -1e-9 and not p.step.beside
        ]
        if over:
            return "within", f"Predicted within; over its own allowance: {', '.join(over)}."
        return "within", "Predicted within every ceiling."

    # Parts of a run

    def _point(self, craft: Craft, point_id: str) -> Point:
        point = craft.point(point_id)
        return Point(id=point.id, name=point_called(craft, point), access=point.access)

    def _load(self, budget: RunBudget, solved: Solved) -> LoadOut:
        load, run = budget.run.load, budget.run
        state = solved.solution.elements[load.id]
        return LoadOut(
            id=load.id,
            name=load.name,
            spec=words.load_spec(load),
            on=load.id in solved.scenario.on,
            current_a=abs(state.current_a),
            power_w=abs(state.power_w),
            volts=budget.load_v,
            least_v=load.least_v,
            drops_out=bool(state.current_a) and drops_out(load, budget.load_v),
            works=words.works(load, budget.load_v) if state.current_a else "",
            feed=self._point(solved.craft, run.feed_terminal),
            back=self._point(solved.craft, run.return_terminal),
            form=load_form(load),
        )

    def source_out(self, budget: RunBudget, solved: Solved) -> SourceOut:
        """The source of a run as it stands in the scenario on screen."""
        source = budget.run.source
        state = solved.scenario.sources.get(source.id)
        open_v = state.open_circuit_v if state else None
        internal = state.internal_ohm if state else None
        return SourceOut(
            id=source.id,
            name=source.name,
            live=self._point(solved.craft, source.live),
            back=self._point(solved.craft, source.back),
            volts=budget.source_v,
            open_circuit_v=source.open_circuit_v if open_v is None else open_v,
            internal_ohm=source.internal_ohm if internal is None else internal,
        )

    def _column(
        self,
        budget: PieceBudget,
        side: SideBudget,
        run: RunBudget,
        solved: Solved,
        found: Pass | None,
        left: Pass | None,
    ) -> Column:
        step, piece = budget.step, budget.step.piece
        state = solved.solution.elements[piece.id]
        owner = budget.allowance.load_id
        ruled_by = "" if owner == run.run.load.id else solved.load_names[owner]
        users = solved.users[piece.id]
        names, states = solved.load_names, solved.solution.elements
        drawn = {names[key]: abs(states[key].current_a) for key in users}
        shared = [names[key] for key in users if key != run.run.load.id]
        view = words.PieceView(budget, state, drawn, ruled_by)
        return Column(
            id=piece.id,
            kind=kind_of(piece),  # type: ignore[arg-type]
            name=called(piece),
            side=side.side,
            spec=words.spec(piece),
            entry=self._point(solved.craft, step.entry),
            exit=self._point(solved.craft, step.exit),
            group=step.group,
            beside=step.beside,
            current_a=budget.current_a,
            resistance_ohm=state.resistance_ohm,
            temperature_c=state.temperature_c,
            power_w=state.power_w,
            allowance_v=budget.allowance.volts,
            allowance_why=words.allowance_why(budget.allowance, piece, self.limits, solved.craft),
            ruled_by=ruled_by,
            predicted_v=budget.drop_v,
            spare_v=budget.spare_v,
            predicted_verdict="over" if budget.spare_v < -1e-9 else "within",
            shared_with=shared,
            found=_span(found, step.entry, step.exit, piece.id),
            left=_span(left, step.entry, step.exit, piece.id),
            change=self._change_of(piece.id),
            working=words.piece_working(view, solved.craft, self.limits, self.tables),
            form=piece_form(piece),
        )

    def _change_of(self, piece_id: str) -> str:
        """What the latest stage changes in this piece against as found."""
        found, latest = self.state.heads.get("as_found"), self.state.heads[self.state.latest]
        if found is None:
            return ""
        old = next((p for p in found.craft.pieces if p.id == piece_id), None)
        new = next((p for p in latest.craft.pieces if p.id == piece_id), None)
        if old is None or new is None or old == new:
            return ""
        return words.how_changed(old, new)

    def _side(
        self, side: SideBudget, solved: Solved, found: Pass | None, left: Pass | None
    ) -> SideOut:
        run = (found or left).budget.run if (found or left) else None  # type: ignore[union-attr]
        ends = run.ends(side.side) if run else ("", "")
        pieces = solved.network.elements
        eaten = ", ".join(called(pieces[i]) for i in side.eaten_by)  # type: ignore[arg-type]
        return SideOut(
            side=side.side,
            start=self._point(solved.craft, ends[0]),
            end=self._point(solved.craft, ends[1]),
            ceiling_v=side.ceiling_v,
            predicted_v=side.drop_v,
            spare_v=side.spare_v,
            predicted_verdict="over" if (side.spare_v or 0) < 0 else "within",
            found=_side_cell(found, ends, side.side),
            left=_side_cell(left, ends, side.side),
            eaten=f"Nothing is left for copper on the {words.side_word(side.side)}: {eaten} take it all."
            if eaten
            else "",
        )


def _span(made: Pass | None, entry: str, leave: str, piece_id: str):  # type: ignore[no-untyped-def]
    return made and made.span(entry, leave, made.account.pieces.get(piece_id))


def _side_cell(made: Pass | None, ends: tuple[str, str], side: Side):  # type: ignore[no-untyped-def]
    return made and made.span(*ends, made.account.sides.get(side))


def _least(spares: dict[str, float]) -> tuple[float, str]:
    if not spares:
        return float("inf"), ""
    under = min(spares, key=lambda name: spares[name])
    return spares[under], under


def _measured_spare(made: Pass) -> tuple[float, str]:
    judged: dict[Side, Judged] = made.account.sides
    spares = {str(side): j.spare_v for side, j in judged.items() if j.spare_v is not None}
    ceiling = made.budget.ceilings.round_trip_v
    if ceiling is not None and len(judged) == 2:
        spares["round trip"] = ceiling - sum(j.loaded.volts for j in judged.values())
    return _least(spares)


def share_of(spare: float, under: str, budget: RunBudget) -> float | None:
    """Spare as a share of the ceiling it is under."""
    ceilings = {
        "feed": budget.ceilings.feed_v,
        "return": budget.ceilings.return_v,
        "round trip": budget.ceilings.round_trip_v,
    }
    ceiling = ceilings.get(under)
    return spare / ceiling if ceiling else None


def _finite(value: float) -> float | None:
    return value if abs(value) < 1e9 else None
