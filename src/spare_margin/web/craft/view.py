"""The craft as a whole: runs in their worst scenario, the trunk, copper, what would help."""

import time
from itertools import groupby

from spare_margin.core.budget.run_budget import RunBudget
from spare_margin.core.budget.scenarios import (
    Start,
    Worst,
    drops_out,
    starts,
    worst_scenarios,
)
from spare_margin.core.budget.trunk import (
    Help,
    TrunkStretch,
    copper_by_size,
    helps,
    row_order,
    stretches,
)
from spare_margin.core.circuit.runs import Run
from spare_margin.core.edit.lines import Line, line_of, loose_ends
from spare_margin.core.errors import JobError
from spare_margin.core.least import first_least
from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.limits import LimitSet
from spare_margin.core.model.pieces import (
    Conductor,
    Craft,
    Load,
    Scenario,
    Source,
    TestPoint,
    to_be_sized,
    undrawn,
)
from spare_margin.core.patience import TooLong, at_most
from spare_margin.core.walk.cautions import cautions
from spare_margin.exchange.run_line.text import line_text
from spare_margin.service.drawing.scenarios import SourceTyped
from spare_margin.service.job.session import JobSession
from spare_margin.service.job.worked import SolvedWiring
from spare_margin.web.common.models import NamedChoice
from spare_margin.web.common.parts import share_of_ceiling, stages_out
from spare_margin.web.craft.models import (
    CopperOut,
    CraftOut,
    CraftQuery,
    CraftRun,
    HelpOut,
    LoadInCraft,
    ScenarioOutForm,
    SourceInCraft,
    StartOut,
    StretchOut,
)
from spare_margin.wording.craft.craft_workings import (
    better_words,
    copper_lines,
    help_lines,
    run_lines,
    start_lines,
    start_words,
    stretch_lines,
)
from spare_margin.wording.craft.pieces import (
    piece_name,
    side_word,
    size_name,
    stall_words,
    works,
)
from spare_margin.wording.craft.sheets import loose_words, not_predicted_words
from spare_margin.wording.language.figures import ohms
from spare_margin.wording.language.units import celsius, figure
from spare_margin.wording.measured.cautions import caution_words
from spare_margin.wording.measured.verdicts import shown_verdict

MOST_HELPS = 5
FELT_V = 0.05
"""A start that moves another load by less than this is not worth a line."""


READ_S = 2.0
"""How long judging all runs that were read may take."""


class CraftMaker:
    """Makes the view of a whole craft from the state its job is in."""

    def __init__(self, session: JobSession, query: CraftQuery) -> None:
        self.session, snapshot = session, session.snapshot
        self.stage = snapshot.latest
        if query.stage is not None and query.stage in snapshot.heads:
            self.stage = query.stage
        self.head = snapshot.heads[self.stage]
        self.craft = self.head.craft
        self.states = session.states(self.stage)
        self._until = time.monotonic() + READ_S
        self.scenario = self._scenario(query.scenario)
        self.solved = SolvedWiring(session.worked(self.stage), self.scenario)

    def _scenario(self, wanted: str | None) -> Scenario:
        if wanted is None:
            return max(self.craft.scenarios, key=lambda s: len(s.on))
        try:
            return self.craft.scenario(wanted)
        except KeyError:
            raise JobError("scenario", f"there is no {wanted}", "a scenario of the job") from None

    def out(self) -> CraftOut:
        """The whole view."""
        session, craft, solved = self.session, self.craft, self.solved
        job, tables = session.job, session.tables
        limit_set = session.limits.limit_set
        steps = session.snapshot.steps.get(self.stage, (False, False))
        parts = stretches(solved.runs, solved.solution)
        order = row_order(solved.runs, parts)
        states = solved.solution.elements
        most = max((abs(states[key].current_a) for key in solved.runs), default=0.0)
        copper = copper_by_size(craft, tables)
        # Of what nobody has sized yet every volt would be made up: until then none is told.
        to_size = sum(to_be_sized(w) for w in self._wires())
        return CraftOut(
            job=job.id,
            title=job.title,
            craft_name=job.craft_name,
            customer=job.customer,
            complaint=job.complaint.what,
            complaint_when=job.complaint.when,
            complaint_conditions=job.complaint.conditions,
            craft=craft.kind,
            nominal_v=craft.nominal_v,
            polarity=craft.polarity,
            limit_set=set_name(limit_set),
            limit_sets=[set_name(s) for s in tables.limit_sets.values()],
            stage=self.stage,
            revision=self.head.id,
            stages=stages_out(session.snapshot),
            can_undo=steps[0],
            can_redo=steps[1],
            measured=bool(session.snapshot.readings_of("as_found")),
            scenario=self.scenario.id,
            scenarios=[scenario_form(s, craft) for s in craft.scenarios],
            sources=[_source(s) for s in craft.sources],
            loads=[
                LoadInCraft(id=x.id, name=x.name, start_multiple=x.start_multiple)
                for x in craft.loads
            ],
            runs=self._runs(),
            to_size=to_size,
            order=order,
            stretches=[] if to_size else self._stretches(parts),
            copper=[
                CopperOut(
                    size=size_name(use.size) + ("" if use.size.finish == "plain" else " tinned"),
                    length_m=use.length_m,
                    mass_kg=use.mass_kg,
                    working=copper_lines(use, tables),
                )
                for use in copper
            ],
            copper_kg=sum(use.mass_kg or 0.0 for use in copper),
            helps=[] if to_size else self._helps(),
            starts=[] if to_size else self._starts(),
            notices=self._notices(),
            cautions=caution_words(cautions(craft, most, self.stage)),
        )

    def _wires(self) -> list[Conductor]:
        used = self.solved.users
        return [p for p in self.craft.pieces if isinstance(p, Conductor) and p.id in used]

    def _helps(self) -> list[HelpOut]:
        solved = self.solved
        found = helps(solved.budgets, solved.solution, self.session.tables)
        return [self._help(h) for h in found[:MOST_HELPS]]

    def _starts(self) -> list[StartOut]:
        known = {key for key, run in self.solved.runs.items() if not run.guessed}
        found = starts(self.craft, self.scenario, self.session.tables)
        return [
            start_out(s) for s in telling([s for s in found if {s.motor.id, s.load.id} <= known])
        ]

    def _notices(self) -> list[str]:
        stalled = [stall_words(s) for state in self.states[:1] for s in state.stalled]
        if self.craft.loads:
            stalled += loose_words(self.craft, [p.id for p in loose_ends(self.craft)])
        return stalled

    def _runs(self) -> list[CraftRun]:
        """All runs by least spare; those that are never on last."""
        session = self.session
        worst = worst_scenarios(self.craft, self.solved.runs, self.states, session.limits)
        out = [self._run(key, worst.get(key)) for key in self.solved.runs]
        # A load that stalls has no spare to tell: it comes first.
        return sorted(out, key=lambda r: (r.worst == "", -1e9 if r.spare_v is None else r.spare_v))

    def _run(self, key: str, worst: Worst | None) -> CraftRun:
        run = self.solved.runs[key]
        budget = worst.budget if worst else None
        spare, under, share = None, "", None
        if budget is not None and not run.guessed:
            spare, under = least_of(budget)
            share = None if spare is None else share_of_ceiling(spare, under, budget)
        stalls = worst is not None and worst.budget is None and not run.guessed
        return CraftRun(
            id=key,
            name=run.load.name,
            text=line_text(self._own_line(run)),
            pieces=sum(1 for _ in run.steps()),
            duty=run.load.duty,
            critical=run.load.critical,
            spare_v=spare,
            spare_share=share,
            under=side_word(under),
            verdict="not_loaded"
            if worst is None
            else "not_measured"
            if run.guessed
            else "over"
            if stalls or (spare is not None and spare < 0)
            else "within",
            read=self._read(key),
            worst=worst.scenario.id if worst else "",
            worst_name=worst.scenario.name if worst else "",
            load_v=budget.load_v if budget and not run.guessed else None,
            current_a=budget.current_a if budget else 0.0,
            says=not_predicted_words(run) if run.guessed else self._says(key),
            working=run_lines(budget, self.session.limits) if budget and not run.guessed else [],
        )

    def _read(self, key: str) -> Verdict | None:
        """What the readings of the stage say of a run; None where there are none, or it takes too long."""
        if self.stage == "planned" or not self.session.measured_on(self.stage, key):
            return None
        try:
            with at_most(max(self._until - time.monotonic(), 0.0)):
                found = self.session.judgement(self.stage, key)
        except TooLong:
            return None
        verdict = "not_measured" if found is None else shown_verdict(found)
        return None if verdict == "not_measured" else verdict

    def _own_line(self, run: Run) -> Line:
        """The run's line without what it shares at either end: what tells it from the others."""
        main = line_of(self.craft, run).main
        own = [
            i
            for i, item in enumerate(main)
            if isinstance(item, Load)
            or (not isinstance(item, TestPoint) and len(self.solved.users[item.id]) == 1)
        ]
        return Line(main[max(own[0] - 1, 0) : own[-1] + 2])

    def _says(self, key: str) -> str:
        """In which scenario the load stalls or drops out, if in any."""
        load = self.craft.load(key)
        for state in self.states:
            for stalled in state.stalled:
                if stalled.load_id == key:
                    return f"{state.scenario.name}: {stall_words(stalled)}"
        got = [
            (abs(state.solution.volts(load.start, load.end) or 0.0), state)
            for state in self.states
            if key in state.scenario.on
        ]
        out = [(v, s) for v, s in got if drops_out(load, v)]
        if not out:
            return ""
        least, lowest = min(out, key=lambda pair: pair[0])
        return works(load, least, lowest.scenario.name)

    def _stretches(self, parts: list[TrunkStretch]) -> list[StretchOut]:
        out = []
        # Of what nobody has drawn no volts are told, nor counted further on.
        known = [p for p in parts if not any(undrawn(piece) for piece in p.pieces)]
        for part in parts:
            before = sum(
                p.drop_v
                for p in known
                if p.side == part.side and p.depth < part.depth and set(part.loads) <= set(p.loads)
            )
            names = [piece_name(p) for p in part.pieces]
            out.append(
                StretchOut(
                    side=part.side,
                    depth=part.depth,
                    loads=list(part.loads),
                    pieces=[p.id for p in part.pieces],
                    name=", ".join(names),
                    current_a=part.current_a,
                    drop_v=part.drop_v if part in known else None,
                    before_v=before,
                    working=stretch_lines(part, self.craft, self.solved.solution),
                )
            )
        return out

    def _help(self, h: Help) -> HelpOut:
        return HelpOut(
            piece=h.piece.id,
            name=piece_name(h.piece),
            by=better_words(h),
            gain_v=h.gain_v,
            runs=[self.craft.load(key).name for key in h.runs],
            short_runs=h.short_runs,
            working=help_lines(h),
        )


def least_of(budget: RunBudget) -> tuple[float | None, str]:
    """The least spare (V) under any ceiling, and which; None where there is no ceiling."""
    spares = budget.spares()
    if not spares:
        return None, ""
    under = first_least(spares, lambda name: spares[name])
    return spares[under], under


def set_name(each: LimitSet) -> NamedChoice:
    """One of several to choose from, and why."""
    return NamedChoice(id=each.id, name=each.name, why=each.why)


def _source(source: Source) -> SourceInCraft:
    return SourceInCraft(
        id=source.id,
        name=source.name,
        battery=source.battery,
        capacity_ah=source.capacity_ah,
        open_circuit=figure(f"{source.open_circuit_v:g}") + " V",
        internal=ohms(source.internal_ohm),
    )


def scenario_form(s: Scenario, craft: Craft) -> ScenarioOutForm:
    """A scenario as a person would type it."""
    forms = []
    for source in craft.sources:
        state = s.sources.get(source.id)
        open_v = state.open_circuit_v if state else None
        ohm = state.internal_ohm if state else None
        forms.append(
            SourceTyped(
                id=source.id,
                open_circuit="" if open_v is None else figure(f"{open_v:g}") + " V",
                internal="" if ohm is None else ohms(ohm),
            )
        )
    first = s.source(craft.sources[0])
    return ScenarioOutForm(
        id=s.id,
        name=s.name,
        on=tuple(x.id for x in craft.loads if x.id in s.on),
        starting=tuple(x.id for x in craft.loads if x.id in s.starting),
        ambient=celsius(s.ambient_c).replace("\u00a0", " "),
        engine="" if s.engine_c is None else celsius(s.engine_c).replace("\u00a0", " "),
        temperature_model=s.temperature_model,
        sources=tuple(forms),
        source_v=figure(f"{first.open_circuit_v:g}") + " V",
        contacts=dict(s.contacts),
    )


def telling(found: list[Start]) -> list[Start]:
    """Of every start, the loads that drop out, else the other load that feels it most."""
    out = [s for s in found if s.drops_out]
    # They come motor by motor.
    for motor, own in groupby(found, key=lambda s: s.motor.id):
        others = [s for s in own if s.load.id != motor]
        felt = max(others, key=lambda s: s.running_v - s.starting_v, default=None)
        if felt and not felt.drops_out and felt.running_v - felt.starting_v >= FELT_V:
            out.append(felt)
    return out


def start_out(s: Start) -> StartOut:
    """What a start does to a load, in figures and a sentence."""
    return StartOut(
        motor=s.motor.id,
        load=s.load.id,
        running_v=s.running_v,
        starting_v=s.starting_v,
        drops_out=s.drops_out,
        says=start_words(s),
        working=start_lines(s),
    )
