"""The demo jobs, brought into a database of their own."""

from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from spare_margin.data.tables import demo_files
from spare_margin.exchange.job_file.job_file import read_job
from spare_margin.store.file.database import connect
from spare_margin.store.file.migrating import migrate
from spare_margin.store.jobs import add_job


def fill_with_demo(database: Path) -> None:
    """Bring the demo jobs into a new database, the first one on top of the list."""
    migrate(database)
    connection = connect(database)
    try:
        moment = datetime.now(UTC).isoformat(timespec="milliseconds").replace("+00:00", "Z")
        for name, raw in reversed(demo_files()):
            read = read_job(raw)
            job = replace(read.job, id=f"demo-{name}")
            add_job(
                connection, job, read.revisions, read.readings, moment, notes=read.notes,
                moments=read.moments, trials=read.trials, heads=read.heads,
                sign_offs=read.sign_offs, logs=read.logs,
            )  # fmt: skip
    finally:
        connection.close()
