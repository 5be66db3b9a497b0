"""Photographs of a job: listed, added, shown, written under, deleted and taken back."""

from flask import Response, request

from spare_margin.core.model.photographs import MOST_PHOTOGRAPHS, Photograph
from spare_margin.exchange.pictures import MOST_BYTES
from spare_margin.service.errors import NotThere
from spare_margin.service.records import photographs as photos
from spare_margin.store import photographs as store
from spare_margin.store.photographs import Scale
from spare_margin.web.common.area import area
from spare_margin.web.common.context import JobPath, connection, open_job
from spare_margin.wording.records.photographs import subject_words

from .models import (
    PhotographList,
    PhotographOut,
    PhotographPath,
    PhotographQuery,
    PhotographSaid,
    ShownPhotograph,
)

photographs_api = area(
    "photographs", __name__, "/api/v1/jobs/<string:job>/photographs", "photographs"
)


@photographs_api.get("", responses={200: PhotographList})
def photograph_list(path: JobPath) -> dict[str, object]:
    """What is kept of the photographs of a job, and what each shows."""
    session = open_job(path.job)
    snapshot = session.snapshot
    # The wiring as it stands first: a piece is called as it is called now.
    heads = [r.craft for r in snapshot.heads.values()]
    crafts = [*heads[::-1], *(r.craft for r in snapshot.revisions.values())]
    readings = {r.id: r for r in snapshot.readings}
    return PhotographList(
        job=path.job,
        title=session.job.title,
        photographs=[
            ShownPhotograph(photograph=p, shows=subject_words(p, crafts, readings), part=p.part)
            for p in store.photographs(connection(), path.job)
        ],
        most=MOST_PHOTOGRAPHS,
    ).model_dump()


@photographs_api.post("", responses={201: PhotographOut})
def add(path: JobPath, query: PhotographQuery) -> tuple[dict[str, object], int]:
    """Keep the picture in the body (JPEG, PNG or WebP) as a photograph. Sent twice it is kept once."""
    request.max_content_length = MOST_BYTES + 1000
    taken = photos.Taken(**query.model_dump())
    raw = request.get_data()
    made = photos.add_photograph(connection(), open_job(path.job).snapshot, taken, raw)
    return PhotographOut(made).out(), 201


@photographs_api.get("/<string:photograph>/large")
def show_large(path: PhotographPath) -> Response:
    """The picture of a photograph, at most 2,048 pixels wide and high."""
    return _picture(path, "large")


@photographs_api.get("/<string:photograph>/small")
def show_small(path: PhotographPath) -> Response:
    """The small picture of a photograph."""
    return _picture(path, "small")


def _picture(path: PhotographPath, scale: Scale) -> Response:
    found = store.picture(connection(), path.job, path.photograph, scale)
    if found is None:
        raise NotThere(photos.NO_PHOTOGRAPH)
    return Response(found, content_type="image/jpeg")


@photographs_api.post("/<string:photograph>", responses={200: PhotographOut})
def say_of(path: PhotographPath, body: PhotographSaid) -> dict[str, object]:
    """Write under a photograph, tick it for the hand-over sheet or not."""
    open_job(path.job)
    return _out(photos.say_of(connection(), path.job, path.photograph, body.note, body.on_sheet))


@photographs_api.post("/<string:photograph>/delete", responses={200: PhotographOut})
def delete(path: PhotographPath) -> dict[str, object]:
    """Delete a photograph; for a day it can be taken back."""
    open_job(path.job)
    return _out(photos.delete(connection(), path.job, path.photograph))


@photographs_api.post("/<string:photograph>/take-back", responses={200: PhotographOut})
def take_back(path: PhotographPath) -> dict[str, object]:
    """Take back a photograph that was deleted."""
    open_job(path.job)
    return _out(photos.take_back(connection(), path.job, path.photograph))


def _out(photograph: Photograph) -> dict[str, object]:
    return PhotographOut(photograph).out()
