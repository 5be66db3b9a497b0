"""The upgrade bench: candidates side by side, one taken as the plan; the work order of a plan."""

from typing import cast

from flask import Response, current_app

from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import Revision
from spare_margin.exchange.reports.lists import written
from spare_margin.service.errors import MOVED_ON, Conflict
from spare_margin.service.job.revising import keep, new_id, now
from spare_margin.service.upgrade.sizing_runs import SizingRuns
from spare_margin.service.upgrade.whole_craft import craft_found, run_by_run_of, sizing_run
from spare_margin.web.common.area import area
from spare_margin.web.common.context import JobPath, caches, connection, open_job
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
from .sizing import run_by_run_out, sizing_out
from .view import SLICE_S, UpgradeMaker, order_out

upgrade_api = area("upgrade", __name__, "/api/v1/jobs/<string:job>", "upgrade bench")


@upgrade_api.get("/upgrade", responses={200: UpgradeOut})
def upgrade(path: JobPath, query: UpgradeQuery) -> dict[str, object]:
    """The candidates of a run as far as they are worked out; ask again until it is done."""
    return UpgradeMaker(open_job(path.job), query).out().model_dump()


@upgrade_api.post("/upgrade/take", responses={200: Taken})
def take(path: JobPath, body: Take) -> dict[str, object]:
    """Take a candidate: its wiring becomes the plan, and what was planned before can be undone back."""
    session = open_job(path.job)
    heads = session.snapshot.heads
    head = heads.get("planned", heads["as_found"])
    if head.id != body.revision:
        raise Conflict(MOVED_ON)
    upgrading = session.upgrading(body.run)
    made = upgrading.candidate(body.candidate)
    if made is None:
        known = ", ".join(c.offer.id for c in upgrading.ready)
        raise JobError("candidate", f"there is no {body.candidate}", known)
    names = full_names(upgrading.bench.craft, upgrading.bench.run)
    said = f"Planned: {upgrades.title(made, names)}."
    if made.craft == head.craft:
        return Taken(stage="planned", revision=head.id, said=said).model_dump()
    revision = Revision(
        id=new_id(), stage="planned", parent=head.id, made_at=now(), craft=made.craft
    )
    keep(connection(), caches(), session.snapshot, revision)
    return Taken(stage="planned", revision=revision.id, said=said).model_dump()


def _sizings() -> SizingRuns:
    return cast(SizingRuns, current_app.extensions["sizings"])


@upgrade_api.get("/sizing", responses={200: SizingOut})
def read_sizing(path: JobPath) -> dict[str, object]:
    """How far the sizing of the whole craft is."""
    return sizing_out(open_job(path.job), _sizings().of(path.job)).model_dump()


@upgrade_api.post("/sizing", responses={200: SizingOut})
def start_sizing(path: JobPath, body: SizeWanted) -> dict[str, object]:
    """Size the conductors of the craft as found; one that still runs for this job is stopped."""
    session = open_job(path.job)
    found = session.head("as_found")
    heads = session.snapshot.heads
    if heads.get("planned", found).id != body.revision:
        raise Conflict(MOVED_ON)
    made = sizing_run(session, body.objective, frozenset(body.keep), body.thicker, body.mend)
    run = _sizings().start(path.job, made)
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
    session = open_job(path.job)
    heads = session.snapshot.heads
    head, run = heads.get("planned", heads["as_found"]), _sizings().of(path.job)
    if head.id != body.revision:
        raise Conflict(MOVED_ON)
    if run is None or run.made is None or run.basis != craft_found(session).basis:
        raise JobError("sizing", "there are no sizes to take", "size the craft first")
    craft = run.task.sized(run.made.sizes)
    said = PLANNED_SIZES
    if craft == head.craft:
        return Taken(stage="planned", revision=head.id, said=said).model_dump()
    made = Revision(id=new_id(), stage="planned", parent=head.id, made_at=now(), craft=craft)
    keep(connection(), caches(), session.snapshot, made)
    return Taken(stage="planned", revision=made.id, said=said).model_dump()


@upgrade_api.get("/run-by-run", responses={200: RunByRunOut})
def read_run_by_run(path: JobPath, query: RunByRunQuery) -> dict[str, object]:
    """The craft put right run by run, worked out a little further; ask again until it is done."""
    session = open_job(path.job)
    run_by_run_of(session, query.minute).advance(SLICE_S)
    return run_by_run_out(session, query.minute).model_dump()


@upgrade_api.post("/run-by-run/take", responses={200: Taken})
def take_run_by_run(path: JobPath, body: TakeCraft) -> dict[str, object]:
    """All the repairs become the plan."""
    session = open_job(path.job)
    heads = session.snapshot.heads
    head = heads.get("planned", heads["as_found"])
    if head.id != body.revision:
        raise Conflict(MOVED_ON)
    stands = run_by_run_of(session, body.minute).stands
    if not stands.done or not stands.repairs:
        raise JobError(
            "revision", "there are no repairs to take yet", "ask until they are worked out"
        )
    said = PLANNED_RUNS
    if stands.craft == head.craft:
        return Taken(stage="planned", revision=head.id, said=said).model_dump()
    made = Revision(id=new_id(), stage="planned", parent=head.id, made_at=now(), craft=stands.craft)
    keep(connection(), caches(), session.snapshot, made)
    return Taken(stage="planned", revision=made.id, said=said).model_dump()


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
