"""The list of jobs: shown, previewed, brought in, taken out, put away."""

import shutil
from tempfile import SpooledTemporaryFile
from typing import cast

from flask import Response, current_app, request, send_file

from spare_margin.core.model.naming import KIND_NAMES
from spare_margin.core.model.pieces import Size
from spare_margin.data.tables import tables_with
from spare_margin.exchange.job_file.container import MOST_BYTES, Container
from spare_margin.exchange.job_file.job_file import JobFileErrors, read_job
from spare_margin.exchange.job_file.models import schema
from spare_margin.exchange.job_file.own_rows import merged
from spare_margin.exchange.reports.lists import readings_csv
from spare_margin.service.records.listing import listed
from spare_margin.service.records.timeline import timeline
from spare_margin.service.workshop.bringing_in import bring_in, ending, known, taken_out, write_file
from spare_margin.service.workshop.brought_rows import settled
from spare_margin.service.workshop.demo import sample
from spare_margin.store import jobs as job_store
from spare_margin.store.records import Asked
from spare_margin.web.common.area import area
from spare_margin.web.common.context import JobPath, connection, open_job, the_workshop
from spare_margin.web.common.downloads import attached
from spare_margin.web.common.models import Created
from spare_margin.web.jobs.models import (
    Choices,
    HowQuery,
    JobList,
    JobsQuery,
    KindChoice,
    KnownJob,
    Preview,
    SizeSystem,
    Timeline,
)
from spare_margin.web.problems import wrong_field
from spare_margin.wording.craft.pieces import size_typed
from spare_margin.wording.language.units import number
from spare_margin.wording.measured.cautions import FIRST_START
from spare_margin.wording.records.brought import known_words

from .list_worker import ListWorker
from .view import event_out, listed_job, preview_of

IN_MEMORY = 4_000_000
"""A job file that is larger lies on disk while it is read or sent."""
LOOK_S = 0.15
"""How long who asks for the list waits for what changed; the rest comes when it is asked again."""
jobs_api = area("jobs", __name__, "/api/v1", "jobs")


@jobs_api.get("/jobs", responses={200: JobList})
def job_list(query: JobsQuery) -> dict[str, object]:
    """A page of jobs, newest first; ask again while some wait to be worked out."""
    away = {"no": False, "yes": True, "any": None}[query.away]
    asked = Asked(
        query.words, query.craft, query.customer, query.kind, query.fault, query.state or None,
        query.since, query.until, away,
    )  # fmt: skip
    found = listed(connection(), asked, query.start)
    wanted = [row.id for row, stands in found.rows if stands is None]
    if wanted:
        cast(ListWorker, current_app.extensions["listed"]).work(wanted, LOOK_S)
        found = listed(connection(), asked, query.start)
    return JobList(
        jobs=[listed_job(*row) for row in found.rows],
        total=found.total,
        put_away=found.put_away,
        waiting=found.waiting,
        kinds=[KindChoice(id=key, name=name) for key, name in KIND_NAMES.items()],
        cautions=FIRST_START,
    ).model_dump()


@jobs_api.post("/jobs/preview", responses={200: Preview})
def preview() -> dict[str, object]:
    """What the job file in the body would bring in; nothing is kept."""
    own = the_workshop().own_rows
    try:
        file = _sent()
        read = settled(read_job(file.text, own), own)
        file.check(read)
    except JobFileErrors as refused:
        return Preview(
            title="",
            craft="",
            nominal_v=None,
            complaint="",
            runs=[],
            reading_count=0,
            notices=[],
            known=None,
            errors=[wrong_field(e) for e in refused.errors],
        ).model_dump()
    seen = preview_of(read, tables_with(merged(own, read.rows)))
    held = known(connection(), read, own)
    if held is not None:
        says = known_words(held.title, held.relation, held.adds)
        seen.known = KnownJob(job=held.job, relation=held.relation, says=says)
    return seen.model_dump()


@jobs_api.post("/jobs", responses={201: Created})
def keep_job(query: HowQuery) -> tuple[dict[str, object], int]:
    """Keep the job file in the body, whole or not at all; `how` counts where its job is here already."""
    made = bring_in(connection(), _sent(), the_workshop().own_rows, query.how)
    return Created(id=made).model_dump(), 201


def _sent() -> Container:
    """The job file in the body; a zip is held on disk, not in memory."""
    request.max_content_length = MOST_BYTES
    # Gone with the request: nothing else knows of it.
    file = SpooledTemporaryFile(IN_MEMORY)  # noqa: SIM115
    shutil.copyfileobj(request.stream, file)
    file.seek(0)
    return Container(file)


@jobs_api.post("/jobs/sample", responses={201: Created})
def look_round() -> tuple[dict[str, object], int]:
    """A sample job to look round in: the one that is here already, else a fresh one."""
    return Created(id=sample(connection())).model_dump(), 201


@jobs_api.get("/jobs/<string:job>/file")
def take_out(path: JobPath) -> Response:
    """The whole job as a job file; with photographs as a zip."""
    session = open_job(path.job)
    read = taken_out(connection(), session.snapshot, the_workshop().own_rows)
    plain = "".join(c if c.isascii() and c.isalnum() else "-" for c in session.job.title.lower())
    name = "-".join(filter(None, plain.split("-")))[:60] or "job"
    # Flask closes it once it is sent.
    file = SpooledTemporaryFile(IN_MEMORY)  # noqa: SIM115
    write_file(connection(), read, file)
    file.seek(0)
    kind = {".json": "application/json", ".zip": "application/zip"}[ending(read)]
    return send_file(file, kind, as_attachment=True, download_name=f"{name}{ending(read)}")


@jobs_api.get("/jobs/<string:job>/readings.csv")
def take_out_readings(path: JobPath) -> Response:
    """Every reading of a job as CSV (RFC 4180), safe against formulas."""
    snapshot = open_job(path.job).snapshot
    stages = {key: r.stage for key, r in snapshot.revisions.items()}
    points = {p.id: p.name or p.id for r in snapshot.revisions.values() for p in r.craft.points}
    text = readings_csv(snapshot.readings, stages, points)
    return attached(text, f"readings-{path.job}.csv", "text/csv; charset=utf-8")


@jobs_api.get("/jobs/<string:job>/timeline", responses={200: Timeline})
def read_timeline(path: JobPath) -> dict[str, object]:
    """Everything that was done to a job, the oldest first."""
    session = open_job(path.job)
    read = taken_out(connection(), session.snapshot, the_workshop().own_rows)
    craft = session.head(session.snapshot.latest).craft
    return Timeline(
        job=path.job,
        title=session.job.title,
        craft_name=session.job.craft_name,
        events=[event_out(each, craft) for each in timeline(read)],
    ).model_dump()


@jobs_api.post("/jobs/<string:job>/put-away", responses={200: Created})
def put_away(path: JobPath) -> dict[str, object]:
    """Put a job away. Nothing of it is lost."""
    open_job(path.job)
    job_store.put_away(connection(), path.job, True)
    return Created(id=path.job).model_dump()


@jobs_api.post("/jobs/<string:job>/take-back", responses={200: Created})
def take_back(path: JobPath) -> dict[str, object]:
    """Put a job back in the list."""
    open_job(path.job)
    job_store.put_away(connection(), path.job, False)
    return Created(id=path.job).model_dump()


@jobs_api.get("/job-file-schema")
def job_file_schema() -> dict[str, object]:
    """The job file as a JSON Schema."""
    return schema()


@jobs_api.get("/choices", responses={200: Choices})
def choices() -> dict[str, object]:
    """What the inspector offers."""
    tables = the_workshop().tables
    rows = tables.conductors.rows
    systems = dict.fromkeys(size.system for size in rows)
    ratings: dict[str, list[str]] = {}
    for style, rating in tables.fixed.fuses:
        ratings.setdefault(style, []).append(f"{number(rating)} A")
    return Choices(
        sizes=[
            SizeSystem(
                system=system,
                sizes=[
                    size_typed(Size(system, value)) for value in tables.conductors.sizes(system)
                ],
                finishes=list(dict.fromkeys(s.finish for s in rows if s.system == system)),
            )
            for system in systems
        ],
        styles={
            kind: tables.fixed.styles(kind)
            for kind in ("joint", "fuse", "switch", "relay_contact", "body_return")
        },
        fuse_ratings=ratings,
    ).model_dump()
