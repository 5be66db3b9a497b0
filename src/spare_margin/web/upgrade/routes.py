"""The upgrade bench: candidates side by side, one taken as the plan; the work order of a plan."""

from typing import cast

from flask import Response, current_app

from spare_margin.core.sizing.free import WireSort
from spare_margin.exchange.reports.lists import written
from spare_margin.service.job.desk import Edited
from spare_margin.service.upgrade.planning import plan_candidate, plan_run_by_run, plan_sizes
from spare_margin.service.upgrade.sizing_runs import SizingRuns
from spare_margin.service.upgrade.whole_craft import SizingWanted, run_by_run_of, sizing_run
from spare_margin.web.common.area import area
from spare_margin.web.common.context import JobPath, open_desk, open_job
from spare_margin.web.common.downloads import attached
from spare_margin.wording.craft.names import full_names
from spare_margin.wording.repair import upgrades
from spare_margin.wording.repair.upgrades import PLANNED_RUNS, PLANNED_SIZES

from .models import (
    OrderOut,
    OrderQuery,
    RunByRunOut,
    RunByRunQuery,
    SizeWanted,
    SizingOut,
    Take,
    TakeCraft,
    Taken,
    TakeSizes,
    UpgradeOut,
    UpgradeQuery,
)
from .sizing_view import run_by_run_out, sizing_out
from .view import SLICE_S, UpgradeMaker, order_out

upgrade_api = area("upgrade", __name__, "/api/v1/jobs/<string:job>", "upgrade bench")


@upgrade_api.get("/upgrade", responses={200: UpgradeOut})
def upgrade(path: JobPath, query: UpgradeQuery) -> dict[str, object]:
    """The candidates of a run as far as they are worked out; ask again until it is done."""
    return UpgradeMaker(open_job(path.job), query).out().model_dump()


@upgrade_api.post("/upgrade/take", responses={200: Taken})
def take(path: JobPath, body: Take) -> dict[str, object]:
    """Take a candidate: its wiring becomes the plan, and what was planned before can be undone back."""
    desk = open_desk(path.job)
    edited, made = plan_candidate(desk, body.revision, body.run, body.candidate)
    bench = desk.session.upgrading(body.run).bench
    return _taken(edited, upgrades.planned_words(made, full_names(bench.craft, bench.run)))


def _taken(edited: Edited, said: str) -> dict[str, object]:
    return Taken(stage="planned", revision=edited.revision, said=said).model_dump()


def _sizings() -> SizingRuns:
    return cast(SizingRuns, current_app.extensions["sizings"])


@upgrade_api.get("/sizing", responses={200: SizingOut})
def read_sizing(path: JobPath) -> dict[str, object]:
    """How far the sizing of the whole craft is."""
    return sizing_out(open_job(path.job), _sizings().of(path.job)).model_dump()


@upgrade_api.post("/sizing", responses={200: SizingOut})
def start_sizing(path: JobPath, body: SizeWanted) -> dict[str, object]:
    """Size the conductors of the craft as found; one that still runs for this job is stopped."""
    desk = open_desk(path.job)
    desk.planned_on(body.revision)
    session = desk.session
    of = body.sort
    sort = None if of is None else WireSort(of.system, of.finish, of.insulation_c)
    wanted = SizingWanted(
        body.objective,
        frozenset(body.keep),
        body.thicker,
        body.mend,
        body.free_only,
        sort,
        body.anyway,
    )
    run = _sizings().start(path.job, sizing_run(session, wanted))
    return sizing_out(session, run).model_dump()


@upgrade_api.post("/sizing/stop", responses={200: SizingOut})
def stop_sizing(path: JobPath) -> dict[str, object]:
    """Stop looking, and keep the best so far."""
    run = _sizings().of(path.job)
    if run is not None:
        run.stop()
    return sizing_out(open_job(path.job), run).model_dump()


@upgrade_api.post("/sizing/take", responses={200: Taken})
def take_sizes(path: JobPath, body: TakeSizes) -> dict[str, object]:
    """The sizes that were found become the plan."""
    edited = plan_sizes(open_desk(path.job), body.revision, _sizings().of(path.job))
    return _taken(edited, PLANNED_SIZES)


@upgrade_api.get("/run-by-run", responses={200: RunByRunOut})
def read_run_by_run(path: JobPath, query: RunByRunQuery) -> dict[str, object]:
    """The craft put right run by run, worked out a little further; ask again until it is done."""
    session = open_job(path.job)
    run_by_run_of(session, query.minute).advance(SLICE_S)
    return run_by_run_out(session, query.minute).model_dump()


@upgrade_api.post("/run-by-run/take", responses={200: Taken})
def take_run_by_run(path: JobPath, body: TakeCraft) -> dict[str, object]:
    """All the repairs become the plan."""
    return _taken(plan_run_by_run(open_desk(path.job), body.revision, body.minute), PLANNED_RUNS)


@upgrade_api.get("/order", responses={200: OrderOut})
def order(path: JobPath, query: OrderQuery) -> dict[str, object]:
    """The work order of the plan for a run."""
    return order_out(open_job(path.job), query.run).model_dump()


@upgrade_api.get("/order.csv")
def order_csv(path: JobPath, query: OrderQuery) -> Response:
    """The list of parts of the plan as CSV (RFC 4180)."""
    made = order_out(open_job(path.job), query.run)
    rows = [(line.what, line.amount, line.price, line.minutes) for line in made.parts]
    rows.append(("together", "", made.price, made.minutes))
    text = written(("part", "amount", "price", "minutes"), rows)
    return attached(text, f"parts-{made.run}.csv", "text/csv; charset=utf-8")
