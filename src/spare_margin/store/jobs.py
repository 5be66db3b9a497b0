"""Jobs: what stands on the shelf."""

import hashlib
import json
import sqlite3
from collections.abc import Iterable, Mapping
from types import MappingProxyType

from spare_margin.core.model.jobs import (
    Complaint,
    Job,
    LogTrace,
    Moment,
    Reading,
    Revision,
    SignOff,
    Stage,
    Trial,
    WalkNote,
)
from spare_margin.core.model.limits import Ceilings
from spare_margin.core.model.photographs import Photograph
from spare_margin.store.file.database import transaction
from spare_margin.store.meter_logs import add_logs
from spare_margin.store.moments import add_moments, add_trials
from spare_margin.store.photographs import add_photographs
from spare_margin.store.readings import add_readings
from spare_margin.store.records import folded
from spare_margin.store.revisions import add_revision, put_heads
from spare_margin.store.sign_offs import add_sign_offs
from spare_margin.store.walk_notes import add_notes
from spare_margin.store.workshop import put_rows


def parents_first(revisions: Iterable[Revision]) -> list[Revision]:
    """Revisions in an order in which each one's parent comes before it, else as they come."""
    waiting = list(revisions)
    known: set[str] = set()
    out: list[Revision] = []
    while waiting:
        ready = next((r for r in waiting if r.parent is None or r.parent in known), waiting[0])
        waiting.remove(ready)
        known.add(ready.id)
        out.append(ready)
    return out


DETAILS = (
    "title",
    "craft_name",
    "customer",
    "complaint_what",
    "complaint_when",
    "complaint_conditions",
    "limit_set",
)
"""What a job says of itself, column by column."""
WORDS = DETAILS[:-1]
"""Those of them by which it is found."""


def add_job(
    connection: sqlite3.Connection,
    job: Job,
    revisions: Iterable[Revision],
    readings: Iterable[Reading],
    made_at: str,
    notes: Iterable[WalkNote] = (),
    moments: Iterable[Moment] = (),
    trials: Iterable[Trial] = (),
    sign_offs: Iterable[SignOff] = (),
    logs: Iterable[LogTrace] = (),
    photographs: Iterable[tuple[Photograph, bytes, bytes]] = (),
    heads: Mapping[Stage, tuple[str | None, str]] = MappingProxyType({}),
    rows: Mapping[str, Mapping[str, Mapping[str, str]]] = MappingProxyType({}),
) -> None:
    """Keep a whole job and the rows it brings for the tables (table, key, cells), or nothing of it.

    `made_at` counts where the job itself does not say when it was taken in. A photograph comes with its
    picture as JPEG, large and small.
    """
    with transaction(connection):
        connection.execute(
            """
            INSERT INTO job (id, title, craft_name, customer, complaint_what, complaint_when,
                complaint_conditions, limit_set, stock, source_checks, made_at, words)
            VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
            """,
            (
                job.id,
                job.title,
                job.craft_name,
                job.customer,
                job.complaint.what,
                job.complaint.when,
                job.complaint.conditions,
                job.limit_set,
                json.dumps(job.stock),
                json.dumps({key: dict(read) for key, read in job.source_checks.items()}),
                job.made_at or made_at,
                folded(
                    job.title,
                    job.craft_name,
                    job.customer,
                    job.complaint.what,
                    job.complaint.when,
                    job.complaint.conditions,
                ),
            ),
        )
        connection.executemany(
            "INSERT INTO own_limit VALUES (?, ?, ?, ?, ?)",
            (
                (job.id, load, c.feed_v, c.return_v, c.round_trip_v)
                for load, c in job.own_limits.items()
            ),
        )
        for revision in parents_first(revisions):
            add_revision(connection, job.id, revision)
        put_heads(connection, job.id, heads)
        add_moments(connection, job.id, moments)
        add_trials(connection, job.id, trials)
        add_readings(connection, job.id, readings)
        add_notes(connection, job.id, notes)
        add_sign_offs(connection, job.id, sign_offs)
        add_logs(connection, job.id, logs)
        add_photographs(connection, job.id, photographs)
        for table, brought in rows.items():
            put_rows(connection, table, brought)


def job(connection: sqlite3.Connection, job_id: str) -> Job | None:
    """One job; None if there is none of this id."""
    row = connection.execute("SELECT * FROM job WHERE id = ?", (job_id,)).fetchone()
    return _job(connection, row) if row else None


def all_ids(connection: sqlite3.Connection) -> list[str]:
    """The ids of all jobs, put away ones too, the oldest first."""
    rows = connection.execute("SELECT id FROM job ORDER BY made_at, rowid")
    return [row["id"] for row in rows]


def titles(connection: sqlite3.Connection) -> dict[str, str]:
    """The titles of all jobs by id, the oldest first."""
    rows = connection.execute("SELECT id, title FROM job ORDER BY made_at, rowid")
    return {row["id"]: row["title"] for row in rows}


def beat(connection: sqlite3.Connection, job_id: str) -> str | None:
    """Something short that changes whenever a job did; None where there is no such job."""
    row = connection.execute(
        """
        SELECT (SELECT COUNT(*) || '.' || COALESCE(MAX(rowid), 0) FROM reading WHERE job_id = :job),
            (SELECT COUNT(*) FROM walk_note WHERE job_id = :job),
            (SELECT COUNT(*) FROM sign_off WHERE job_id = :job),
            (SELECT GROUP_CONCAT(channels) FROM meter_log WHERE job_id = :job),
            (SELECT GROUP_CONCAT(stage || COALESCE(revision_id, '-')) FROM head WHERE job_id = :job),
            (SELECT GROUP_CONCAT(id || note || on_sheet || (deleted_at IS NULL)) FROM photograph
                WHERE job_id = :job),
            (SELECT GROUP_CONCAT(load_id || COALESCE(feed_v, '') || '/' || COALESCE(return_v, '') || '/'
                || COALESCE(round_trip_v, '')) FROM own_limit WHERE job_id = :job),
            (SELECT title || limit_set || source_checks || craft_name || customer FROM job WHERE id = :job)
        """,
        {"job": job_id},
    ).fetchone()
    if row[7] is None:
        return None
    return hashlib.sha256("|".join(map(str, row)).encode()).hexdigest()[:16]


def put_away(connection: sqlite3.Connection, job_id: str, away: bool) -> None:
    """Take a job off the shelf, or put it back; nothing of it is lost."""
    connection.execute("UPDATE job SET put_away = ? WHERE id = ?", (int(away), job_id))


def keep_details(connection: sqlite3.Connection, job_id: str, said: Mapping[str, str]) -> None:
    """Keep what a job says of itself: these columns of its row; the others stay as they are."""
    for column, value in said.items():
        if column not in DETAILS:
            raise ValueError(column)
        connection.execute(f"UPDATE job SET {column} = ? WHERE id = ?", (value, job_id))
    row = connection.execute(
        f"SELECT {', '.join(WORDS)} FROM job WHERE id = ?", (job_id,)
    ).fetchone()
    connection.execute("UPDATE job SET words = ? WHERE id = ?", (folded(*row), job_id))


def keep_own_limits(
    connection: sqlite3.Connection, job_id: str, own: Mapping[str, Ceilings | None]
) -> None:
    """Keep what some runs are held to by themselves; None for what the limit set says."""
    for load, c in own.items():
        connection.execute("DELETE FROM own_limit WHERE job_id = ? AND load_id = ?", (job_id, load))
        if c is not None:
            connection.execute(
                "INSERT INTO own_limit VALUES (?, ?, ?, ?, ?)",
                (job_id, load, c.feed_v, c.return_v, c.round_trip_v),
            )
    connection.execute("UPDATE job SET shown = NULL WHERE id = ?", (job_id,))


def keep_source_check(
    connection: sqlite3.Connection, job_id: str, source: str, read: Mapping[str, float]
) -> None:
    """Keep the figures read at one source; those of others stay. Call inside a transaction."""
    row = connection.execute("SELECT source_checks FROM job WHERE id = ?", (job_id,)).fetchone()
    checks = {**json.loads(row["source_checks"]), source: dict(read)}
    connection.execute(
        "UPDATE job SET source_checks = ? WHERE id = ?", (json.dumps(checks), job_id)
    )


def _job(connection: sqlite3.Connection, row: sqlite3.Row) -> Job:
    own = connection.execute("SELECT * FROM own_limit WHERE job_id = ?", (row["id"],)).fetchall()
    return Job(
        id=row["id"],
        title=row["title"],
        made_at=row["made_at"],
        craft_name=row["craft_name"],
        customer=row["customer"],
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
