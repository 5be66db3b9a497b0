"""The source check: what was read at a source, what it says, what the model may take from it."""

from dataclasses import replace

from spare_margin.core.model.pieces import Craft
from spare_margin.service.job.revising import everywhere
from spare_margin.service.job.typed_edit import edited
from spare_margin.store import jobs as job_store
from spare_margin.store.file.database import transaction
from spare_margin.web.common.area import area
from spare_margin.web.common.context import JobPath, caches, connection, open_job

from .models import GiveModel, KeepSource, SourceCheck, SourceQuery
from .view import figures_typed, source_check, source_of

source_api = area("source", __name__, "/api/v1/jobs/<string:job>", "source")


@source_api.get("/source-check", responses={200: SourceCheck})
def read_source_check(path: JobPath, query: SourceQuery) -> dict[str, object]:
    """What was read at a source, and what it says."""
    return source_check(open_job(path.job), query.source).model_dump()


@source_api.post("/source-check", responses={200: SourceCheck})
def keep_source_check(path: JobPath, body: KeepSource) -> dict[str, object]:
    """Keep what was read at a source."""
    session = open_job(path.job)
    source = source_of(session, body.source)
    read = figures_typed(body.form, session.head(session.snapshot.latest).craft.nominal_v)
    if body.battery != source.battery:

        def act(craft: Craft) -> Craft:
            changed = tuple(
                replace(s, battery=body.battery) if s.id == source.id else s for s in craft.sources
            )
            return replace(craft, sources=changed)

        everywhere(connection(), caches(), session.snapshot, act, "source")
    with transaction(connection()):
        job_store.keep_source_check(connection(), path.job, source.id, read)
    return source_check(open_job(path.job), source.id).model_dump()


@source_api.post("/source-model", responses={200: SourceCheck})
def give_to_model(path: JobPath, body: GiveModel) -> dict[str, object]:
    """Let the model of a source use an internal resistance, on every stage there is."""
    session = open_job(path.job)
    source = source_of(session, body.source)
    given = {"internal": body.internal}
    everywhere(
        connection(), caches(), session.snapshot,
        lambda c: edited(c, source.id, given, session.tables), "source",
    )  # fmt: skip
    return source_check(open_job(path.job), source.id).model_dump()
