"""Job files in and out of the store: whole, or not at all."""

import sqlite3
from dataclasses import replace

from spare_margin.data.tables import OwnRows, tables_with
from spare_margin.exchange.job_file.job_file import (
    NOT_SAID_WHEN,
    JobFileErrors,
    ReadJob,
    judge,
    read_job,
)
from spare_margin.exchange.job_file.own_rows import merged, rows_used
from spare_margin.store import jobs as job_store
from spare_margin.store import revisions as revision_store
from spare_margin.store.database import snapshot as one_moment

from .brought_rows import settled
from .revising import new_id, now
from .snapshot import JobSnapshot


def bring_in(connection: sqlite3.Connection, raw: bytes, own_rows: OwnRows) -> str:
    """Keep a job file as a new job; its id. JobFileErrors where anything keeps it from being taken."""
    read = settled(read_job(raw, own_rows), own_rows)
    errors, _ = judge(read, tables_with(merged(own_rows, read.rows)))
    if errors:
        raise JobFileErrors(errors)
    job_id, moment = new_id(), now()
    revisions = [
        replace(r, made_at=moment) if r.made_at == NOT_SAID_WHEN else r for r in read.revisions
    ]
    job_store.add_job(
        connection, replace(read.job, id=job_id), revisions, read.readings, moment,
        notes=read.notes, moments=read.moments, trials=read.trials, heads=read.heads, rows=read.rows,
        sign_offs=read.sign_offs,
    )  # fmt: skip
    return job_id


def taken_out(connection: sqlite3.Connection, snapshot: JobSnapshot, own_rows: OwnRows) -> ReadJob:
    """A job with everything kept of it, its undone and redone changes too."""
    job = snapshot.job
    with one_moment(connection):
        revisions = tuple(revision_store.whole_history(connection, job.id))
        heads = revision_store.standing(connection, job.id)
    rows = rows_used(own_rows, [r.craft for r in revisions], job.limit_set)
    return ReadJob(
        job, revisions, snapshot.readings, snapshot.notes, snapshot.moments, snapshot.trials, heads,
        rows, snapshot.sign_offs,
    )  # fmt: skip
