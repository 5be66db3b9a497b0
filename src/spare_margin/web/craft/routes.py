"""The craft as a whole, one run under every limit set, the worst scenario, what-ifs."""

import math

from spare_margin.core.budget.limit_comparison import under_limits
from spare_margin.core.budget.scenarios import solved_scenarios, worst_scenarios
from spare_margin.core.errors import JobError
from spare_margin.core.model.limits import Limits, LimitSet
from spare_margin.service.job.session import Choice, JobSession
from spare_margin.service.job.worked import SolvedWiring
from spare_margin.web.common.area import area
from spare_margin.web.common.context import JobPath, open_job
from spare_margin.web.common.models import ProtectionOut, SheetQuery
from spare_margin.web.common.parts import share_of_ceiling
from spare_margin.wording.craft.pieces import piece_name, side_word, stall_words
from spare_margin.wording.craft.protection import act_words, violation_words
from spare_margin.wording.craft.workings import run_working

from .models import (
    CraftOut,
    CraftQuery,
    LimitComparison,
    ProtectionList,
    UnderLimits,
    WhatIf,
    WorstOut,
)
from .view import CraftMaker
from .what_if import wonders

craft_api = area("craft", __name__, "/api/v1/jobs/<string:job>", "craft")


class WonderQuery(SheetQuery):
    """Which run, and which of its pieces."""

    piece: str | None = None


@craft_api.get("/craft", responses={200: CraftOut})
def craft(path: JobPath, query: CraftQuery) -> dict[str, object]:
    """All runs, least spare first; who loads what; copper; what would help most."""
    return CraftMaker(open_job(path.job), query).out().model_dump()


def _opened(job: str, query: SheetQuery) -> tuple[JobSession, SolvedWiring, str]:
    """The session, the solved scenario and the run that a query names."""
    session = open_job(job)
    view = session.view(Choice(query.run, query.scenario, query.stage, query.on))
    solved = session.solved(view.stage, view)
    return session, solved, session.run_of(query.run, solved)


@craft_api.get("/limit-sets", responses={200: LimitComparison})
def limit_comparison(path: JobPath, query: SheetQuery) -> dict[str, object]:
    """One run under every limit set there is."""
    session, solved, run = _opened(path.job, query)
    budget = solved.budgets[run]
    known = not budget.run.guessed
    rows = [_under(session, solved, run, each) for each in session.tables.limit_sets.values()]
    rows.sort(key=lambda s: s.spare_v if s.spare_v is not None else 1e9)
    return LimitComparison(
        run=run,
        name=budget.run.load.name,
        feed_v=budget.feed.drop_v if known else None,
        return_v=budget.back.drop_v if known else None,
        sets=rows,
    ).model_dump()


def _under(session: JobSession, solved: SolvedWiring, run: str, each: LimitSet) -> UnderLimits:
    in_use = each.id == session.limits.limit_set.id
    limits = session.limits if in_use else Limits(each, {})
    found = under_limits(solved.solved, solved.runs, run, limits, session.tables)
    budget, room = found.budget, found.room
    named = {p.id: piece_name(p) for p in solved.craft.pieces}
    rule = each.rule(budget.run.load)
    spare, under = found.spare or (None, "")
    return UnderLimits(
        id=each.id,
        name=each.name,
        why=each.why,
        own=each.own,
        in_use=in_use,
        feed_ceiling_v=budget.ceilings.feed_v,
        return_ceiling_v=budget.ceilings.return_v,
        round_trip_ceiling_v=budget.ceilings.round_trip_v,
        spare_v=spare,
        spare_share=None if spare is None else share_of_ceiling(spare, under, budget),
        under=side_word(under),
        amperes=room.amperes if room else None,
        metres=room.metres if room else None,
        verdict=found.verdict,
        over=[named[key] for key in found.over],
        note=rule.note if rule else "",
        working=run_working(budget, room, limits) if room else [],
    )


@craft_api.get("/worst", responses={200: WorstOut})
def worst(path: JobPath, query: SheetQuery) -> dict[str, object]:
    """The scenario in which a run has least spare, of all the job has."""
    session, solved, run = _opened(path.job, query)
    states = solved_scenarios(solved.craft, session.tables)
    runs = {run: solved.runs[run]}
    found = worst_scenarios(solved.craft, runs, states, session.limits).get(run)
    if found is None or runs[run].guessed:
        return WorstOut(scenario="", name="", spare_v=None, says="").model_dump()
    at = found.scenario
    stalled = (s for state in states for s in state.stalled if s.load_id == run)
    says = stall_words(next(stalled)) if found.budget is None else ""
    spare = found.spare_v if abs(found.spare_v) < math.inf else None
    return WorstOut(scenario=at.id, name=at.name, spare_v=spare, says=says).model_dump()


@craft_api.get("/protection", responses={200: ProtectionList})
def protection(path: JobPath, query: SheetQuery) -> dict[str, object]:
    """What is wrong with the fuses of the wiring, or of one run of it."""
    session = open_job(path.job)
    view = session.view(Choice(None, None, query.stage, None))
    checked = session.protection(view.stage)
    if query.run is None:
        found = list(checked.violations)
    elif query.run in checked.runs:
        found = checked.of_run(query.run)
    else:
        raise JobError("run", f"there is no run {query.run}", ", ".join(checked.runs))
    craft = checked.craft
    return ProtectionList(
        found=[
            ProtectionOut(code=each.code, act=act_words(each), piece=each.piece, says=says, do=do)
            for each in found
            for says, do in [violation_words(each, craft)]
        ]
    ).model_dump()


@craft_api.get("/what-if", responses={200: WhatIf})
def what_if(path: JobPath, query: WonderQuery) -> dict[str, object]:
    """What small changes at one piece would do to its run; nothing is kept."""
    session, solved, run = _opened(path.job, query)
    return WhatIf(
        rows=wonders(solved, run, query.piece, session.limits, session.tables)
    ).model_dump()
