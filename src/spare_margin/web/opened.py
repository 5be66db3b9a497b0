"""The job that an address names, opened: its state, its sheets."""

from flask import current_app

from spare_margin.core.jobs import Stage
from spare_margin.store import revisions

from .bench import JobState, KnownWirings, job_state
from .connection import connection
from .models import Sheet, SheetQuery
from .problems import NotThere
from .sheets import SheetMaker
from .workshop import meter, tables


def known_wirings() -> KnownWirings:
    """The wirings that this application read lately."""
    held: KnownWirings = current_app.extensions["known_wirings"]
    return held


def job_or_404(job_id: str) -> JobState:
    """The state of a job that must be there."""
    state = job_state(connection(), job_id, known_wirings())
    if state is None:
        raise NotThere("There is no such job; it may have been made in another database.")
    return state


def maker_of(state: JobState, stage: Stage | None = None) -> SheetMaker:
    """The sheet maker of a job."""
    shown = stage if stage in state.heads else state.latest
    steps = revisions.can_step(connection(), state.job.id, shown)
    return SheetMaker(state, tables(), steps, meter())


def sheet_of(job_id: str, query: SheetQuery) -> Sheet:
    """The sheet of a job as it is kept now."""
    return maker_of(job_or_404(job_id), query.stage).sheet(query)
