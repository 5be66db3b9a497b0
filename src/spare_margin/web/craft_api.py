"""The craft as a whole, one run under every limit set, what-ifs, the source check."""

import math
from dataclasses import replace

from flask_openapi3.blueprint import APIBlueprint
from flask_openapi3.models.tag import Tag

from spare_margin.core.budget import RunBudgets
from spare_margin.core.headroom import headroom
from spare_margin.core.limits import Limits, LimitSet
from spare_margin.core.outlook import solved_scenarios, worst_scenarios
from spare_margin.core.pieces import Craft, FixedPiece, called
from spare_margin.core.runs import Step
from spare_margin.store import jobs as job_store

from . import words
from .bench import Solved
from .connection import connection
from .craft_models import (
    CraftOut,
    CraftQuery,
    GiveModel,
    KeepSource,
    SchoolOut,
    Schools,
    SourceCheck,
    SourceQuery,
    WhatIf,
    WorstOut,
)
from .crafts import CraftMaker, least_of
from .drawing_api import everywhere
from .edits import edited
from .jobs_api import JobPath
from .models import Edit, Problem, SheetQuery
from .opened import job_or_404, maker_of
from .sheets import SheetMaker, share_of
from .source_checks import figures_typed, source_check, source_of
from .what_if import wonders
from .workshop import tables

craft_api = APIBlueprint(
    "craft",
    __name__,
    url_prefix="/api/v1/jobs/<string:job>",
    abp_tags=[Tag(name="craft")],
    abp_responses={"4XX": Problem},
)


class WonderQuery(SheetQuery):
    """Which run, and which of its pieces."""

    piece: str | None = None


@craft_api.get("/craft", responses={200: CraftOut})
def craft(path: JobPath, query: CraftQuery) -> dict[str, object]:
    """All runs, least spare first; who loads what; copper; what would help most."""
    maker = maker_of(job_or_404(path.job), query.stage)
    return CraftMaker(maker, query).out().model_dump()


def _opened(job: str, query: SheetQuery) -> tuple[SheetMaker, Solved, str]:
    """The maker, the solved scenario and the run that a query names."""
    maker = maker_of(job_or_404(job), query.stage)
    view = maker.view(query)
    solved = maker.solved(view.stage, view)
    return maker, solved, maker.run_of(query.run, solved)


@craft_api.get("/schools", responses={200: Schools})
def schools(path: JobPath, query: SheetQuery) -> dict[str, object]:
    """One run under every limit set there is."""
    maker, solved, run = _opened(path.job, query)
    budget = solved.budgets[run]
    in_use = maker.limits.limit_set.id
    rows = [
        _school(each, solved, run, maker.limits if each.id == in_use else Limits(each, {}), in_use)
        for each in tables().limit_sets.values()
    ]
    rows.sort(key=lambda s: s.spare_v if s.spare_v is not None else 1e9)
    return Schools(
        run=run,
        name=budget.run.load.name,
        feed_v=budget.feed.drop_v,
        return_v=budget.back.drop_v,
        schools=rows,
    ).model_dump()


def _school(each: LimitSet, solved: Solved, run: str, limits: Limits, in_use: str) -> SchoolOut:
    craft = solved.craft
    budget = RunBudgets(craft, solved.runs, solved.solution, limits, tables())[run]
    spare, under = least_of(budget)
    loaded = bool(budget.current_a)
    room = headroom(solved.network, budget, limits) if loaded else None
    rule = each.rule(budget.run.load)
    over = [
        called(p.step.piece)
        for side in budget.sides
        for p in side.pieces
        if p.drop_v > _ceiling_of(p.step, limits, craft.nominal_v)
    ]
    verdict = "not_loaded"
    if loaded:
        verdict = "over" if over or (spare is not None and spare < 0) else "within"
    return SchoolOut(
        id=each.id,
        name=each.name,
        why=each.why,
        own=each.own,
        in_use=each.id == in_use,
        feed_ceiling_v=budget.ceilings.feed_v,
        return_ceiling_v=budget.ceilings.return_v,
        round_trip_ceiling_v=budget.ceilings.round_trip_v,
        spare_v=spare if loaded else None,
        spare_share=share_of(spare, under, budget) if loaded and spare is not None else None,
        under=words.side_word(under),
        amperes=room.amperes if room else None,
        metres=room.metres if room else None,
        verdict=verdict,  # type: ignore[arg-type]
        over=over,
        note=rule.note if rule else "",
        working=words.run_working(budget, room, limits) if room else [],
    )


def _ceiling_of(step: Step, limits: Limits, nominal_v: float) -> float:
    """The ceiling (V) for this one piece; none for wire, nor for what drops volts on purpose."""
    if not isinstance(step.piece, FixedPiece) or step.on_purpose:
        return math.inf
    ceiling = limits.single_ceiling_v(step.piece.kind, nominal_v)
    return math.inf if ceiling is None else ceiling


@craft_api.get("/worst", responses={200: WorstOut})
def worst(path: JobPath, query: SheetQuery) -> dict[str, object]:
    """The scenario in which a run has least spare, of all the job has."""
    maker, solved, run = _opened(path.job, query)
    states = solved_scenarios(solved.craft, tables())
    runs = {run: solved.runs[run]}
    found = worst_scenarios(solved.craft, runs, states, maker.limits, tables()).get(run)
    if found is None:
        return WorstOut(scenario="", name="", spare_v=None, says="").model_dump()
    at = found.scenario
    stalled = (s for state in states for s in state.stalled if s.load_id == run)
    says = words.stall_says(next(stalled)) if found.budget is None else ""
    spare = found.spare_v if abs(found.spare_v) < math.inf else None
    return WorstOut(scenario=at.id, name=at.name, spare_v=spare, says=says).model_dump()


@craft_api.get("/what-if", responses={200: WhatIf})
def what_if(path: JobPath, query: WonderQuery) -> dict[str, object]:
    """What small changes at one piece would do to its run; nothing is kept."""
    maker, solved, run = _opened(path.job, query)
    return WhatIf(rows=wonders(solved, run, query.piece, maker.limits, tables())).model_dump()


@craft_api.get("/source-check", responses={200: SourceCheck})
def read_source_check(path: JobPath, query: SourceQuery) -> dict[str, object]:
    """What was read at a source, and what it says."""
    return source_check(job_or_404(path.job), query.source).model_dump()


@craft_api.post("/source-check", responses={200: SourceCheck})
def keep_source_check(path: JobPath, body: KeepSource) -> dict[str, object]:
    """Keep what was read at a source."""
    state = job_or_404(path.job)
    source = source_of(state, body.source)
    read = figures_typed(body.form, state.heads[state.latest].craft.nominal_v)
    if body.battery != source.battery:

        def act(craft: Craft) -> Craft:
            changed = tuple(
                replace(s, battery=body.battery) if s.id == source.id else s for s in craft.sources
            )
            return replace(craft, sources=changed)

        everywhere(state, act, f"{source.name}: another kind of battery")
    checks = {**state.job.source_checks, source.id: read}
    job_store.keep_details(connection(), replace(state.job, source_checks=checks))
    return source_check(job_or_404(path.job), source.id).model_dump()


@craft_api.post("/source-model", responses={200: SourceCheck})
def give_to_model(path: JobPath, body: GiveModel) -> dict[str, object]:
    """Let the model of a source use an internal resistance, on every stage there is."""
    state = job_or_404(path.job)
    source = source_of(state, body.source)
    edit = Edit(internal=body.internal)
    everywhere(state, lambda c: edited(c, source.id, edit, tables()), f"{source.name}: measured")
    return source_check(job_or_404(path.job), source.id).model_dump()
