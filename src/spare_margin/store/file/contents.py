"""What a database file holds, whatever its schema: for who looks after it."""

import sqlite3
from contextlib import closing
from pathlib import Path
from typing import NamedTuple


class Contents(NamedTuple):
    """The number of its schema, and how many jobs and readings there are."""

    schema: int
    jobs: int
    readings: int


def contents(path: Path) -> Contents:
    """Look into a file without changing it. sqlite3.Error where it is none of this program's."""
    with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)) as connection:
        version = connection.execute("PRAGMA user_version").fetchone()[0]
        jobs = connection.execute("SELECT count(*) FROM job").fetchone()[0]
        tables = {row[0] for row in connection.execute("SELECT name FROM sqlite_master")}
        readings = 0
        if "reading" in tables:
            readings = connection.execute("SELECT count(*) FROM reading").fetchone()[0]
    return Contents(version, jobs, readings)
