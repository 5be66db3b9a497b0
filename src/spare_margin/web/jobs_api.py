"""The shelf: jobs listed, previewed, brought in, taken out, put away."""

from dataclasses import replace

from flask import Response, json, request
from flask_openapi3.blueprint import APIBlueprint
from flask_openapi3.models.tag import Tag
from pydantic import BaseModel

from spare_margin.core.limits import Limits
from spare_margin.core.pieces import called
from spare_margin.core.runs import misplaced
from spare_margin.core.tables import Tables
from spare_margin.data.shelves import tables_with
from spare_margin.exchange.file_models import schema
from spare_margin.exchange.job_file import (
    JobFileErrors,
    ReadJob,
    judge,
    read_job,
    write_job,
)
from spare_margin.exchange.own_rows import merged, rows_used
from spare_margin.store import jobs as job_store

from .bench import Solved
from .brought_rows import brought_says, settled
from .cautions import FIRST_START
from .connection import connection, new_id, now
from .models import Choices, Created, Preview, PreviewRun, Problem, Shelf, SizeSystem
from .on_shelf import shelf_job
from .opened import job_or_404, maker_of
from .problems import wrong_field
from .workshop import own_rows
from .workshop import tables as tables_in_use

jobs_api = APIBlueprint(
    "jobs",
    __name__,
    url_prefix="/api/v1",
    abp_tags=[Tag(name="shelf")],
    abp_responses={"4XX": Problem},
)


class JobPath(BaseModel):
    """The job that an address names."""

    job: str


@jobs_api.get("/jobs", responses={200: Shelf})
def shelf() -> dict[str, object]:
    """The jobs on the shelf, newest first."""

    def shown(away: bool):  # type: ignore[no-untyped-def]
        return [
            shelf_job(maker_of(job_or_404(job.id))) for job in job_store.jobs(connection(), away)
        ]

    return Shelf(jobs=shown(False), put_away=shown(True), cautions=FIRST_START).model_dump()


@jobs_api.post("/jobs/preview", responses={200: Preview})
def preview() -> dict[str, object]:
    """What the job file in the body would bring in; nothing is kept."""
    try:
        read = settled(read_job(request.get_data(), own_rows()), own_rows())
    except JobFileErrors as refused:
        errors = [wrong_field(e) for e in refused.errors]
        return Preview(
            title="",
            craft="",
            nominal_v=None,
            complaint="",
            runs=[],
            reading_count=0,
            notices=[],
            errors=errors,
        ).model_dump()
    return _preview(read, tables_with(merged(own_rows(), read.rows))).model_dump()


def _preview(read: ReadJob, tables: Tables) -> Preview:
    errors = judge(read, tables)
    craft, runs, notices = read.craft, [], brought_says(read.rows)
    if not errors:
        limits = Limits(tables.limit_sets[read.job.limit_set], read.job.own_limits)
        solved = Solved(craft, craft.scenario(), limits, tables)
        for key, budget in solved.budgets.items():
            steps = list(solved.runs[key].steps())
            on = budget.current_a > 0
            runs.append(
                PreviewRun(
                    name=budget.run.load.name,
                    piece_count=len(steps),
                    spare_v=budget.spare_v if on and budget.spares() else None,
                )
            )
        names = {p.id: called(p) for p in craft.pieces}
        wrong = misplaced(list(solved.runs.values()))
        notices += [f"{names[key]} will stand on the {side} side." for key, side in wrong.items()]
    return Preview(
        title=read.job.title,
        craft=craft.kind,
        nominal_v=craft.nominal_v,
        complaint=read.job.complaint.what,
        runs=runs,
        reading_count=len(read.readings),
        notices=notices,
        errors=[wrong_field(e) for e in errors],
    )


@jobs_api.post("/jobs", responses={201: Created})
def bring_in() -> tuple[dict[str, object], int]:
    """Keep the job file in the body as a new job, whole or not at all."""
    read = settled(read_job(request.get_data(), own_rows()), own_rows())
    errors = judge(read, tables_with(merged(own_rows(), read.rows)))
    if errors:
        raise JobFileErrors(errors)
    job_id, moment = new_id(), now()
    revisions = [
        replace(r, made_at=moment) if r.made_at.startswith("1970") else r for r in read.revisions
    ]
    job = replace(read.job, id=job_id)
    job_store.add_job(connection(), job, revisions, read.readings, moment, read.notes, read.rows)
    return Created(id=job_id).model_dump(), 201


@jobs_api.get("/jobs/<string:job>/file")
def take_out(path: JobPath) -> Response:
    """The whole job as a job file."""
    state = job_or_404(path.job)
    revisions, readings = tuple(state.revisions.values()), tuple(state.readings)
    rows = rows_used(own_rows(), [r.craft for r in revisions], state.job.limit_set)
    read = ReadJob(state.job, revisions, readings, tuple(state.notes), rows)
    plain = "".join(c if c.isascii() and c.isalnum() else "-" for c in state.job.title.lower())
    name = "-".join(filter(None, plain.split("-")))[:60] or "job"
    return Response(
        json.dumps(write_job(read), indent=1),
        content_type="application/json",
        headers={"Content-Disposition": f'attachment; filename="{name}.json"'},
    )


@jobs_api.post("/jobs/<string:job>/put-away", responses={200: Created})
def put_away(path: JobPath) -> dict[str, object]:
    """Take a job off the shelf. Nothing of it is lost."""
    job_or_404(path.job)
    job_store.put_away(connection(), path.job, True)
    return Created(id=path.job).model_dump()


@jobs_api.post("/jobs/<string:job>/take-back", responses={200: Created})
def take_back(path: JobPath) -> dict[str, object]:
    """Put a job back on the shelf."""
    job_or_404(path.job)
    job_store.put_away(connection(), path.job, False)
    return Created(id=path.job).model_dump()


@jobs_api.get("/job-file-schema")
def job_file_schema() -> dict[str, object]:
    """The job file as a JSON Schema."""
    return schema()


@jobs_api.get("/choices", responses={200: Choices})
def choices() -> dict[str, object]:
    """What the inspector offers."""
    tables = tables_in_use()
    rows = tables.conductors.rows
    systems = dict.fromkeys(size.system for size in rows)
    ratings: dict[str, list[float]] = {}
    for style, rating in tables.fixed.fuses:
        ratings.setdefault(style, []).append(rating)
    return Choices(
        sizes=[
            SizeSystem(
                system=system,
                sizes=tables.conductors.sizes(system),
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
