"""The source check: what was read at a source, what it says, what the model may take from it."""

from spare_margin.service.job.source_checking import give_internal, keep_source_read
from spare_margin.web.common.area import area
from spare_margin.web.common.context import JobPath, open_desk, open_job

from .models import GiveModel, KeepSource, SourceCheck, SourceQuery
from .view import source_check

source_api = area("source", __name__, "/api/v1/jobs/<string:job>", "source")


@source_api.get("/source-check", responses={200: SourceCheck})
def read_source_check(path: JobPath, query: SourceQuery) -> dict[str, object]:
    """What was read at a source, and what it says."""
    return source_check(open_job(path.job), query.source).model_dump()


@source_api.post("/source-check", responses={200: SourceCheck})
def keep_source_check(path: JobPath, body: KeepSource) -> dict[str, object]:
    """Keep what was read at a source."""
    keep_source_read(open_desk(path.job), body.source, body.battery, body.form)
    return source_check(open_job(path.job), body.source).model_dump()


@source_api.post("/source-model", responses={200: SourceCheck})
def give_to_model(path: JobPath, body: GiveModel) -> dict[str, object]:
    """Let the model of a source use an internal resistance, on every stage there is."""
    give_internal(open_desk(path.job), body.source, body.internal)
    return source_check(open_job(path.job), body.source).model_dump()
