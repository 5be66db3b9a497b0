"""Moments and trials: the conditions under which readings belong together, what was tried out."""

import json
import sqlite3
from collections.abc import Iterable
from dataclasses import asdict

from spare_margin.core.model.jobs import Moment, StandInLoad, Trial

TRIAL = {
    "id": "id", "moment": "moment", "kind": "kind", "start": "start", "end": "end",
    "outcome": "outcome", "ohm": "ohm", "revision": "revision_id", "taken_at": "taken_at",
    "note": "note", "who": "who",
}  # fmt: skip
"""A trial's fields, and the columns they stand in."""


def add_moments(connection: sqlite3.Connection, job: str, moments: Iterable[Moment]) -> None:
    """Append moments. Call inside a transaction."""
    connection.executemany(
        "INSERT INTO moment"
        " (job_id, id, scenario, loads, warm_min, rpm, charging, note, stand_in, contacts)"
        " VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            (
                job, m.id, m.scenario, json.dumps(dict(m.loads)), m.warm_min, m.rpm,
                None if m.charging is None else int(m.charging), m.note,
                None if m.stand_in is None else json.dumps(asdict(m.stand_in)),
                json.dumps(dict(m.contacts)),
            )
            for m in moments
        ),
    )  # fmt: skip


def moments(connection: sqlite3.Connection, job: str) -> list[Moment]:
    """Every moment of a job, in the order they were kept."""
    rows = connection.execute("SELECT * FROM moment WHERE job_id = ? ORDER BY rowid", (job,))
    return [
        Moment(
            id=r["id"],
            scenario=r["scenario"],
            loads=json.loads(r["loads"]),
            warm_min=r["warm_min"],
            rpm=r["rpm"],
            charging=None if r["charging"] is None else bool(r["charging"]),
            note=r["note"],
            stand_in=None if r["stand_in"] is None else StandInLoad(**json.loads(r["stand_in"])),
            contacts=json.loads(r["contacts"]),
        )
        for r in rows
    ]


def add_trials(connection: sqlite3.Connection, job: str, trials: Iterable[Trial]) -> None:
    """Append trials. Call inside a transaction."""
    names = ", ".join(f'"{c}"' for c in TRIAL.values())
    marks = ", ".join("?" * (len(TRIAL) + 1))
    connection.executemany(
        f"INSERT INTO trial (job_id, {names}) VALUES ({marks})",
        ([job, *(getattr(t, c) for c in TRIAL)] for t in trials),
    )


def trials(connection: sqlite3.Connection, job: str) -> list[Trial]:
    """Every trial of a job, in the order they were kept."""
    names = ", ".join(f'"{column}" AS "{field}"' for field, column in TRIAL.items())
    rows = connection.execute(f"SELECT {names} FROM trial WHERE job_id = ? ORDER BY rowid", (job,))
    return [Trial(**dict(row)) for row in rows]
