"""What a request works with: its connection, its workshop, the session of the job it names."""

import sqlite3
from typing import cast

from flask import current_app, g
from pydantic import BaseModel

from spare_margin.core.model.jobs import Stage
from spare_margin.service.errors import NotThere
from spare_margin.service.job.caches import Caches
from spare_margin.service.job.desk import Desk
from spare_margin.service.job.session import JobSession
from spare_margin.service.job.snapshot import job_snapshot
from spare_margin.service.workshop.workshop import Workshop, workshop
from spare_margin.store.file.database import connect

GIVEN_UP = "spare_margin.given_up"
"""In a request's WSGI environment: asked, it says whether nobody waits for the answer any more."""
NO_JOB = "There is no such job; it may have been made in another database."


class JobPath(BaseModel):
    """The job that an address names."""

    job: str


def connection() -> sqlite3.Connection:
    """This request's connection; closed when the request ends."""
    if "connection" not in g:
        g.connection = connect(current_app.config["DATABASE"])
    return cast(sqlite3.Connection, g.connection)


def caches() -> Caches:
    """What this application worked out lately."""
    return cast(Caches, current_app.extensions["caches"])


def the_workshop() -> Workshop:
    """The workshop's own rows and settings, read once a request."""
    if "workshop" not in g:
        g.workshop = workshop(connection())
    return cast(Workshop, g.workshop)


def forget_workshop() -> None:
    """Read the workshop's rows and settings afresh: something was changed in this request."""
    g.pop("workshop", None)


def open_job(job_id: str) -> JobSession:
    """The session of a job that must be there, as it is kept now."""
    found = job_snapshot(connection(), job_id, caches().wirings(job_id))
    if found is None:
        raise NotThere(NO_JOB)
    caches().learn(job_id, found.revisions.values())
    shop = the_workshop()
    return JobSession(found, shop.tables, shop.meter, caches())


def open_desk(job_id: str) -> Desk:
    """A job that must be there, opened to be changed."""
    return Desk(connection(), open_job(job_id))


def stage_or_latest(session: JobSession, stage: Stage | None) -> Stage:
    """The stage that is wanted, else the furthest that the job has come to."""
    heads = session.snapshot.heads
    return stage if stage is not None and stage in heads else session.snapshot.latest
