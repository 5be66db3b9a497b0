"""Jobs: what stands on the shelf."""

import json
import sqlite3
from collections.abc import Iterable, Mapping
from types import MappingProxyType

from spare_margin.core.jobs import Complaint, Job, Reading, Revision, WalkNote
from spare_margin.core.limits import Ceilings

from .database import transaction
from .readings import add_readings
from .revisions import add_revision
from .walk_notes import add_notes
from .workshop import put_rows


def add_job(
    connection: sqlite3.Connection,
    job: Job,
    revisions: Iterable[Revision],
    readings: Iterable[Reading],
    made_at: str,
    notes: Iterable[WalkNote] = (),
    rows: Mapping[str, Mapping[str, Mapping[str, str]]] = MappingProxyType({}),
) -> None:
    """Keep a whole job and the rows it brings for the tables (shelf, key, cells), or nothing of it."""
    with transaction(connection):
        connection.execute(
            """
            INSERT INTO job (id, title, complaint_what, complaint_when, complaint_conditions,
                limit_set, stock, source_checks, made_at)
            VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)
            """,
            (
                job.id,
                job.title,
                job.complaint.what,
                job.complaint.when,
                job.complaint.conditions,
                job.limit_set,
                json.dumps(job.stock),
                json.dumps({key: dict(read) for key, read in job.source_checks.items()}),
                made_at,
            ),
        )
        connection.executemany(
            "INSERT INTO own_limit VALUES (?, ?, ?, ?, ?)",
            (
                (job.id, load, c.feed_v, c.return_v, c.round_trip_v)
                for load, c in job.own_limits.items()
            ),
        )
        for revision in revisions:
            add_revision(connection, job.id, revision)
        add_readings(connection, job.id, readings)
        add_notes(connection, job.id, notes)
        for shelf, brought in rows.items():
            put_rows(connection, shelf, brought)


def jobs(connection: sqlite3.Connection, put_away: bool = False) -> list[Job]:
    """The jobs on the shelf, newest first."""
    rows = connection.execute(
        "SELECT * FROM job WHERE put_away = ? ORDER BY made_at DESC, rowid DESC", (int(put_away),)
    ).fetchall()
    return [_job(connection, row) for row in rows]


def job(connection: sqlite3.Connection, job_id: str) -> Job | None:
    """One job; None if there is none of this id."""
    row = connection.execute("SELECT * FROM job WHERE id = ?", (job_id,)).fetchone()
    return _job(connection, row) if row else None


def put_away(connection: sqlite3.Connection, job_id: str, away: bool) -> None:
    """Take a job off the shelf, or put it back; nothing of it is lost."""
    connection.execute("UPDATE job SET put_away = ? WHERE id = ?", (int(away), job_id))


def keep_details(connection: sqlite3.Connection, job: Job) -> None:
    """Keep what a job says beyond its wiring: title, complaint, limits, source checks."""
    with transaction(connection):
        connection.execute(
            """
            UPDATE job SET title = ?, complaint_what = ?, complaint_when = ?,
                complaint_conditions = ?, limit_set = ?, source_checks = ?
            WHERE id = ?
            """,
            (
                job.title,
                job.complaint.what,
                job.complaint.when,
                job.complaint.conditions,
                job.limit_set,
                json.dumps({key: dict(read) for key, read in job.source_checks.items()}),
                job.id,
            ),
        )


def _job(connection: sqlite3.Connection, row: sqlite3.Row) -> Job:
    own = connection.execute("SELECT * FROM own_limit WHERE job_id = ?", (row["id"],)).fetchall()
    return Job(
        id=row["id"],
        title=row["title"],
        complaint=Complaint(
            row["complaint_what"], row["complaint_when"], row["complaint_conditions"]
        ),
        limit_set=row["limit_set"],
        own_limits={
            r["load_id"]: Ceilings(r["feed_v"], r["return_v"], r["round_trip_v"]) for r in own
        },
        stock=tuple(json.loads(row["stock"])),
        source_checks=json.loads(row["source_checks"]),
    )
