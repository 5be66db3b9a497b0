"""Opens the database: WAL, foreign keys, numbered migrations, each in a transaction of its own."""

import os
import sqlite3
import time
from collections.abc import Iterator
from contextlib import contextmanager
from importlib import resources
from pathlib import Path

import platformdirs

from spare_margin.core.errors import SpareMarginError

BUSY_S = 10.0
"""How long one waits for another who writes."""


class DatabaseError(SpareMarginError):
    """The database cannot be used; the message is a sentence for a person."""


def default_path() -> Path:
    """The database's place in the platform's folder for a user's data."""
    return Path(platformdirs.user_data_dir("spare-margin", appauthor=False)) / "jobs.sqlite3"


def migrations() -> list[tuple[int, str]]:
    """Every schema step as (number, SQL), in order."""
    folder = resources.files("spare_margin.store").joinpath("schema")
    steps = [
        (int(f.name[:4]), f.read_text("utf-8")) for f in folder.iterdir() if f.name.endswith(".sql")
    ]
    return sorted(steps)


def connect(path: Path) -> sqlite3.Connection:
    """A connection ready for use; see `transaction` for writing. The schema must be current."""
    try:
        connection = sqlite3.connect(path, timeout=BUSY_S, isolation_level=None)
        connection.row_factory = sqlite3.Row
        _write_ahead(connection)
        connection.execute("PRAGMA synchronous = FULL")
        connection.execute("PRAGMA foreign_keys = ON")
    except sqlite3.Error as trouble:
        raise DatabaseError(f"The database {path} cannot be opened: {trouble}.") from None
    return connection


def _write_ahead(connection: sqlite3.Connection) -> None:
    """Switch to WAL. SQLite does not wait for another who does the same at this moment: this does."""
    until = time.monotonic() + BUSY_S
    while True:
        try:
            connection.execute("PRAGMA journal_mode = WAL")
            return
        except sqlite3.OperationalError as trouble:
            if trouble.sqlite_errorcode != sqlite3.SQLITE_BUSY or time.monotonic() > until:
                raise
            time.sleep(0.01)


def migrate(path: Path, up_to: int | None = None) -> None:
    """Bring the database at `path` to the newest schema, making it if it is not there.

    Raises DatabaseError if it is newer than this program, or no database of ours.
    """
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as trouble:
        raise DatabaseError(
            f"The folder {path.parent} cannot be made: {trouble.strerror}."
        ) from None
    _keep_to_oneself(path)
    connection = connect(path)
    try:
        steps = migrations()
        newest = steps[-1][0]
        has = connection.execute("PRAGMA user_version").fetchone()[0]
        if has > newest:
            raise DatabaseError(
                f"The database {path} was written by a newer Spare Margin (schema {has}; this one "
                f"knows {newest}). Update the program, or name another file with --database."
            )
        for number, sql in steps:
            if has < number <= (up_to or newest):
                _apply(connection, number, sql)
    except sqlite3.Error as trouble:
        raise DatabaseError(f"The database {path} cannot be used: {trouble}.") from None
    finally:
        connection.close()


def _keep_to_oneself(path: Path) -> None:
    """Make the file so that no other user of this machine reads it; one that is there stays as it is."""
    try:
        os.close(os.open(path, os.O_CREAT | os.O_RDWR, 0o600))
    except OSError as trouble:
        raise DatabaseError(f"The database {path} cannot be made: {trouble.strerror}.") from None


def _apply(connection: sqlite3.Connection, number: int, sql: str) -> None:
    """One step, whole or not at all. The version is read again inside the lock: two may start."""
    with transaction(connection):
        if connection.execute("PRAGMA user_version").fetchone()[0] >= number:
            return
        for statement in _statements(sql):
            connection.execute(statement)
        connection.execute(f"PRAGMA user_version = {number:d}")


def _statements(sql: str) -> Iterator[str]:
    """Split a script; sqlite3.complete_statement knows about triggers and comments."""
    held = ""
    for line in sql.splitlines(keepends=True):
        held += line
        if sqlite3.complete_statement(held):
            yield held
            held = ""


@contextmanager
def snapshot(connection: sqlite3.Connection) -> Iterator[None]:
    """All that is read inside is of one moment, whatever others write meanwhile."""
    connection.execute("BEGIN")
    try:
        yield
    finally:
        connection.execute("COMMIT")


@contextmanager
def transaction(connection: sqlite3.Connection) -> Iterator[None]:
    """All that is written inside is kept together, or none of it."""
    connection.execute("BEGIN IMMEDIATE")
    try:
        yield
    except BaseException:
        connection.execute("ROLLBACK")
        raise
    connection.execute("COMMIT")
