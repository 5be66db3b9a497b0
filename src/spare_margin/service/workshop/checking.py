"""Whether everything in a database could leave it: each job is read back from the file made of it."""

import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from tempfile import TemporaryDirectory

from spare_margin.core.errors import SpareMarginError
from spare_margin.data.tables import tables_with
from spare_margin.exchange.job_file.job_file import judge, read_job
from spare_margin.exchange.job_file.own_rows import merged
from spare_margin.service.workshop.whole_workshop import job_text
from spare_margin.service.workshop.workshop import workshop
from spare_margin.store.file.backups import copy, what_is_wrong
from spare_margin.store.file.database import connect
from spare_margin.store.file.migrating import migrate
from spare_margin.store.jobs import titles


def troubles(path: Path) -> list[str]:
    """What is wrong with a database file and with the jobs in it, each in a few words; nothing is changed.

    Its jobs are looked at in a copy, brought to the newest schema where the file is older. Raises
    DatabaseError where there is no room for one.
    """
    wrong = what_is_wrong(path)
    if wrong:
        return [wrong]
    with TemporaryDirectory(prefix="spare-margin-check-") as folder:
        looked_at = Path(folder) / "copy.sqlite3"
        copy(path, looked_at)
        migrate(looked_at)
        with closing(connect(looked_at)) as connection:
            return list(_refused(connection))


def _refused(connection: sqlite3.Connection) -> Iterator[str]:
    """The jobs that no other workshop could take, and why."""
    own = workshop(connection).own_rows
    for job, title in titles(connection).items():
        try:
            text = job_text(connection, job) or ""
            read = read_job(text.encode(), own)
            errors, _ = judge(read, tables_with(merged(own, read.rows)))
            if errors:
                raise errors[0]
        except SpareMarginError as trouble:
            yield f"the job {title} ({job}) could not leave: {trouble}"
        except (KeyError, ValueError, TypeError, sqlite3.Error) as trouble:
            yield f"the job {title} ({job}) cannot be read: {type(trouble).__name__} {trouble}"
