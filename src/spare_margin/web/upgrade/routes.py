"""The upgrade bench: candidates side by side, one taken as the plan; the work order of a plan."""

import csv
import io

from flask import Response
from flask_openapi3.blueprint import APIBlueprint
from flask_openapi3.models.tag import Tag

from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import Revision
from spare_margin.service.errors import MOVED_ON, Conflict
from spare_margin.service.revising import keep, new_id, now
from spare_margin.web.common.context import JobPath, caches, connection, open_job
from spare_margin.web.common.models import Problem
from spare_margin.wording import upgrades
from spare_margin.wording.names import full_names

from .models import OrderOut, OrderQuery, Take, Taken, UpgradeOut, UpgradeQuery
from .view import UpgradeMaker, order_out

upgrade_api = APIBlueprint(
    "upgrade",
    __name__,
    url_prefix="/api/v1/jobs/<string:job>",
    abp_tags=[Tag(name="upgrade bench")],
    abp_responses={"4XX": Problem},
)


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


@upgrade_api.get("/order", responses={200: OrderOut})
def order(path: JobPath, query: OrderQuery) -> dict[str, object]:
    """The work order of the plan for a run."""
    return order_out(open_job(path.job), query.run).model_dump()


@upgrade_api.get("/order.csv")
def order_csv(path: JobPath, query: OrderQuery) -> Response:
    """The list of parts of the plan as CSV (RFC 4180)."""
    made = order_out(open_job(path.job), query.run)
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\r\n")
    writer.writerow(["part", "amount", "price", "minutes"])
    for line in made.parts:
        writer.writerow(map(_safe, (line.what, line.amount, line.price, line.minutes)))
    writer.writerow(["together", "", _safe(made.price), _safe(made.minutes)])
    name = f'attachment; filename="parts-{made.run}.csv"'
    headers = {"Content-Disposition": name}
    return Response(text.getvalue(), content_type="text/csv; charset=utf-8", headers=headers)


def _safe(cell: str) -> str:
    """A cell that a spreadsheet does not take for a formula."""
    return f"'{cell}" if cell[:1] in ("=", "+", "-", "@", "\t", "\r") else cell
