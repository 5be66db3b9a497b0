"""Readings: appended once each, whatever the network does; superseded, never changed."""

import json
import sqlite3
from collections.abc import Iterable
from dataclasses import asdict

from spare_margin.core.model.jobs import LogWindow, Reading

COLUMNS = (
    "id",
    "quantity",
    "red",
    "black",
    "value",
    "state",
    "typed",
    "accuracy",
    "scenario",
    "taken_at",
    "supersedes",
    "source_v",
    "note",
    "meter",
    "hold",
    "warm_min",
    "who",
    "moment",
    "trial",
    "leads_ohm",
    "moved",
)


def add_readings(connection: sqlite3.Connection, job: str, readings: Iterable[Reading]) -> None:
    """Append readings. One that is there already, by its id, is left as it is."""
    names = ", ".join(COLUMNS)
    marks = ", ".join("?" * (len(COLUMNS) + 3))
    connection.executemany(
        f"INSERT INTO reading (job_id, revision_id, log_window, {names}) VALUES ({marks})"
        " ON CONFLICT (job_id, id) DO NOTHING",
        ([job, r.revision, _text(r.window), *(getattr(r, c) for c in COLUMNS)] for r in readings),
    )


def readings(connection: sqlite3.Connection, job: str) -> list[Reading]:
    """Every reading of a job, superseded ones too, in the order they were kept."""
    names = ", ".join(COLUMNS)
    rows = connection.execute(
        f"SELECT revision_id, log_window, {names} FROM reading WHERE job_id = ? ORDER BY rowid",
        (job,),
    )
    return [
        Reading(
            **{column: row[column] for column in COLUMNS},
            revision=row["revision_id"],
            window=_window(row["log_window"]),
        )
        for row in rows
    ]


def _text(window: LogWindow | None) -> str | None:
    return None if window is None else json.dumps(asdict(window))


def _window(text: str | None) -> LogWindow | None:
    return None if text is None else LogWindow(**json.loads(text))
