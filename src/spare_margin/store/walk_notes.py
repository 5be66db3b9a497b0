"""What was said on walks besides readings: appended once each, in the order it was said."""

import sqlite3
from collections.abc import Iterable

from spare_margin.core.model.jobs import WalkNote

COLUMNS = ("id", "stage", "run", "step", "state", "reason", "who", "made_at")


def add_notes(connection: sqlite3.Connection, job: str, notes: Iterable[WalkNote]) -> None:
    """Append notes. One that is there already, by its id, is left as it is."""
    names = ", ".join(COLUMNS)
    marks = ", ".join("?" * (len(COLUMNS) + 1))
    connection.executemany(
        f"INSERT INTO walk_note (job_id, {names}) VALUES ({marks})"
        " ON CONFLICT (job_id, id) DO NOTHING",
        ([job, *(getattr(n, c) for c in COLUMNS)] for n in notes),
    )


def notes(connection: sqlite3.Connection, job: str) -> list[WalkNote]:
    """Every note of a job, in the order they were kept."""
    names = ", ".join(COLUMNS)
    rows = connection.execute(
        f"SELECT {names} FROM walk_note WHERE job_id = ? ORDER BY rowid", (job,)
    )
    return [WalkNote(**dict(row)) for row in rows]
