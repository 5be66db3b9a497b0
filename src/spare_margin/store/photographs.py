"""Photographs of a job: what is said of each, its picture, large and small."""

import sqlite3
from collections.abc import Iterable
from typing import Literal

from spare_margin.core.model.photographs import Photograph

COLUMNS = (
    "id", "subject", "about", "stage", "note", "on_sheet", "taken_at", "who", "width_px", "height_px",
)  # fmt: skip
Scale = Literal["large", "small"]


def add_photographs(
    connection: sqlite3.Connection,
    job: str,
    photographs: Iterable[tuple[Photograph, bytes, bytes]],
) -> None:
    """Keep photographs, each with its picture as JPEG, large and small. Call inside a transaction.

    One that is there already, by its id, is left as it is, or taken back where it was deleted.
    """
    marks = ", ".join("?" * (len(COLUMNS) + 1))
    for photograph, large, small in photographs:
        connection.execute(
            f"INSERT INTO photograph (job_id, {', '.join(COLUMNS)}) VALUES ({marks})"
            " ON CONFLICT (job_id, id) DO UPDATE SET deleted_at = NULL",
            (job, *(getattr(photograph, name) for name in COLUMNS)),
        )
        connection.execute(
            "INSERT INTO photograph_picture VALUES (?, ?, ?, ?) ON CONFLICT DO NOTHING",
            (job, photograph.id, large, small),
        )


def photographs(
    connection: sqlite3.Connection, job: str, *, deleted: bool = False
) -> list[Photograph]:
    """Every photograph of a job, in the order they were added; or those that were deleted."""
    rows = connection.execute(
        f"SELECT {', '.join(COLUMNS)} FROM photograph"
        " WHERE job_id = ? AND (deleted_at IS NOT NULL) = ? ORDER BY rowid",
        (job, deleted),
    )
    return [Photograph(**{**dict(row), "on_sheet": bool(row["on_sheet"])}) for row in rows]


def picture(
    connection: sqlite3.Connection, job: str, photograph: str, scale: Scale
) -> bytes | None:
    """The picture of a photograph as JPEG; None where there is none of this id."""
    row = connection.execute(
        f"SELECT {scale} FROM photograph_picture WHERE job_id = ? AND photograph_id = ?",
        (job, photograph),
    ).fetchone()
    return None if row is None else bytes(row[0])


def say_of(
    connection: sqlite3.Connection, job: str, photograph: str, note: str, on_sheet: bool
) -> None:
    """Keep what is said of a photograph. Call inside a transaction."""
    connection.execute(
        "UPDATE photograph SET note = ?, on_sheet = ? WHERE job_id = ? AND id = ?",
        (note, on_sheet, job, photograph),
    )


def set_deleted(connection: sqlite3.Connection, job: str, photograph: str, at: str | None) -> None:
    """Delete a photograph, as of `at` (UTC), or take it back (None). Call inside a transaction."""
    connection.execute(
        "UPDATE photograph SET deleted_at = ? WHERE job_id = ? AND id = ?", (at, job, photograph)
    )


def let_go(connection: sqlite3.Connection, before: str) -> None:
    """Forget for good what was deleted before a time (UTC), of every job. Call inside a transaction."""
    connection.execute("DELETE FROM photograph WHERE deleted_at < ?", (before,))
