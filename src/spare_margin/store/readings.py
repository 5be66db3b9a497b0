"""Readings: appended once each, whatever the network does; superseded, never changed."""

import json
import sqlite3
from collections.abc import Iterable
from dataclasses import asdict

from spare_margin.core.model.jobs import LogWindow, MeterFigure, Reading, SourceFigure

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
    marks = ", ".join("?" * (len(COLUMNS) + 4))
    connection.executemany(
        f"INSERT INTO reading (job_id, revision_id, log_window, by_meter, {names}) VALUES ({marks})"
        " ON CONFLICT (job_id, id) DO NOTHING",
        (
            [job, r.revision, _text(r.window), _text(r.by_meter), *(getattr(r, c) for c in COLUMNS)]
            for r in readings
        ),
    )


def readings(connection: sqlite3.Connection, job: str) -> list[Reading]:
    """Every reading of a job, superseded ones too, in the order they were kept."""
    names = ", ".join(COLUMNS)
    rows = connection.execute(
        f"SELECT revision_id, log_window, by_meter, {names} FROM reading WHERE job_id = ? ORDER BY rowid",
        (job,),
    )
    return [
        Reading(
            **{column: row[column] for column in COLUMNS},
            revision=row["revision_id"],
            window=_window(row["log_window"]),
            by_meter=_by_meter(row["by_meter"]),
        )
        for row in rows
    ]


def _text(held: LogWindow | MeterFigure | None) -> str | None:
    return None if held is None else json.dumps(asdict(held))


def _window(text: str | None) -> LogWindow | None:
    return None if text is None else LogWindow(**json.loads(text))


def _by_meter(text: str | None) -> MeterFigure | None:
    if text is None:
        return None
    said = json.loads(text)
    source = said.pop("source", None)
    said |= {"at_s": tuple(said["at_s"]), "shown": tuple(said["shown"])}
    return MeterFigure(**said, source=None if source is None else SourceFigure(**source))
