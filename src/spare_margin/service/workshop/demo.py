"""The demo jobs: brought into a database of their own; the first of them as a sample beside real work."""

import sqlite3
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from spare_margin.data.tables import demo_files, demo_practice
from spare_margin.exchange.job_file.job_file import read_job
from spare_margin.exchange.practice import acts_text, demo_attempts, result_text
from spare_margin.service.job.revising import earlier
from spare_margin.store.file.database import connect, transaction
from spare_margin.store.file.migrating import migrate
from spare_margin.store.jobs import add_job, job
from spare_margin.store.practice import Attempt, begin_attempt

DAY_S = 24 * 3600.0
SAMPLE = "sample"
"""The id of the sample: there is one of it."""


def fill_with_demo(database: Path) -> None:
    """Bring the demo jobs into a new database, the first one on top of the list."""
    migrate(database)
    connection = connect(database)
    try:
        for name, raw in reversed(demo_files()):
            _bring(connection, f"demo-{name}", raw)
        _practise(connection)
    finally:
        connection.close()


def sample(connection: sqlite3.Connection) -> str:
    """The id of the sample job, which is brought in where it is not here yet."""
    with transaction(connection):
        if job(connection, SAMPLE) is None:
            _, raw = demo_files()[0]
            _bring(connection, SAMPLE, raw)
    return SAMPLE


def _practise(connection: sqlite3.Connection) -> None:
    """A week of two learners."""
    for i, each in enumerate(demo_attempts(demo_practice())):
        when = earlier(each.days_ago * DAY_S)
        begin_attempt(
            connection,
            Attempt(
                f"demo-{i}", each.who, each.exercise, "", when, when, acts_text(each.acts),
                result_text(each.result),
            ),
        )  # fmt: skip


def _bring(connection: sqlite3.Connection, job_id: str, raw: bytes) -> None:
    read = read_job(raw)
    moment = datetime.now(UTC).isoformat(timespec="milliseconds").replace("+00:00", "Z")
    add_job(
        connection, replace(read.job, id=job_id), read.revisions, read.readings, moment,
        notes=read.notes, moments=read.moments, trials=read.trials, heads=read.heads,
        sign_offs=read.sign_offs, logs=read.logs,
    )  # fmt: skip
