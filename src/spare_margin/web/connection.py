"""The database connection of a request, and the job that its address names."""

import sqlite3
import uuid
from datetime import UTC, datetime

from flask import current_app, g

from spare_margin.core.jobs import Stage
from spare_margin.data.shelves import shipped_tables
from spare_margin.store import revisions
from spare_margin.store.database import connect

from .bench import JobState, job_state
from .models import Sheet, SheetQuery
from .problems import NotThere
from .sheets import SheetMaker


def connection() -> sqlite3.Connection:
    """This request's connection; closed when the request ends."""
    if "connection" not in g:
        g.connection = connect(current_app.config["DATABASE"])
    held: sqlite3.Connection = g.connection
    return held


def job_or_404(job_id: str) -> JobState:
    """The state of a job that must be there."""
    state = job_state(connection(), job_id)
    if state is None:
        raise NotThere("There is no such job; it may have been made in another database.")
    return state


def maker_of(state: JobState, stage: Stage | None = None) -> SheetMaker:
    """The sheet maker of a job."""
    shown = stage if stage in state.heads else state.latest
    return SheetMaker(
        state, shipped_tables(), revisions.can_step(connection(), state.job.id, shown)
    )


def sheet_of(job_id: str, query: SheetQuery) -> Sheet:
    """The sheet of a job as it is kept now."""
    return maker_of(job_or_404(job_id), query.stage).sheet(query)


def new_id() -> str:
    """An id that survives export and import."""
    return uuid.uuid4().hex


def now() -> str:
    """This moment in UTC, ISO 8601."""
    return datetime.now(UTC).isoformat(timespec="milliseconds").replace("+00:00", "Z")
