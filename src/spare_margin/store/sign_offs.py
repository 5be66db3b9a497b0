"""Who signed which proof: appended once each, never changed."""

import json
import sqlite3
from collections.abc import Iterable

from spare_margin.core.model.jobs import SignOff

COLUMNS = ("id", "run", "revision", "role", "name", "strokes", "outcome", "made_at")


def add_sign_offs(connection: sqlite3.Connection, job: str, signed: Iterable[SignOff]) -> None:
    """Append signatures. One that is there already, by its id, is left as it is."""
    names = ", ".join(COLUMNS)
    marks = ", ".join("?" * (len(COLUMNS) + 1))
    connection.executemany(
        f"INSERT INTO sign_off (job_id, {names}) VALUES ({marks})"
        " ON CONFLICT (job_id, id) DO NOTHING",
        (
            (
                job,
                s.id,
                s.run,
                s.revision,
                s.role,
                s.name,
                json.dumps(s.strokes),
                s.outcome,
                s.made_at,
            )
            for s in signed
        ),
    )


def sign_offs(connection: sqlite3.Connection, job: str) -> list[SignOff]:
    """Every signature of a job, in the order they were given."""
    names = ", ".join(COLUMNS)
    rows = connection.execute(
        f"SELECT {names} FROM sign_off WHERE job_id = ? ORDER BY rowid", (job,)
    )
    return [SignOff(**{**dict(row), "strokes": _strokes(row["strokes"])}) for row in rows]


def _strokes(text: str) -> tuple[tuple[tuple[float, float], ...], ...]:
    return tuple(tuple((x, y) for x, y in line) for line in json.loads(text))
