"""Opens the database: write-ahead log, foreign keys, snapshots and transactions."""

import os
import sqlite3
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from importlib import resources
from pathlib import Path
from typing import Literal

import platformdirs

from spare_margin.core.errors import SpareMarginError

BUSY_S = 10.0
"""How long one waits for another who writes."""


class DatabaseError(SpareMarginError):
    """The database cannot be used; the message is a sentence for a person at this machine.

    `code` is SQLite's own for what was in the way, where it was SQLite.
    """

    def __init__(self, sentence: str, code: int | None = None) -> None:
        super().__init__(sentence)
        self.code = code


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
    """A connection ready for use; see `transaction` for writing. The schema must be current.

    The file must be there: one that was taken away is not made anew, empty. Raises DatabaseError.
    """
    try:
        connection = sqlite3.connect(
            f"{path.absolute().as_uri()}?mode=rw", uri=True, timeout=BUSY_S, isolation_level=None
        )
        connection.row_factory = sqlite3.Row
        _write_ahead(connection)
        connection.execute("PRAGMA synchronous = FULL")
        connection.execute("PRAGMA foreign_keys = ON")
    except sqlite3.Error as trouble:
        code = getattr(trouble, "sqlite_errorcode", None)
        closed = closed_to_us(path)
        why = str(trouble) if closed is None else NOT_WRITTEN[closed]
        raise DatabaseError(f"The database {path} cannot be opened: {why}.", code) from None
    return connection


NOT_WRITTEN = {
    "database": "its file may not be written",
    "log": "a file beside it, which ends in -wal or -shm, may not be written",
    "folder": "its folder may not be written",
}


Closed = Literal["database", "log", "folder"]


def closed_to_us(path: Path) -> Closed | None:
    """What of a database this program may not write: its file, a file beside it, the folder; else None."""
    if path.exists() and not os.access(path, os.W_OK):
        return "database"
    beside = (path.with_name(path.name + end) for end in ("-wal", "-shm"))
    if any(p.exists() and not os.access(p, os.W_OK) for p in beside):
        return "log"
    return "folder" if path.parent.is_dir() and not os.access(path.parent, os.W_OK) else None


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


def data_version(connection: sqlite3.Connection) -> int:
    """SQLite's number for the state of the file; it changes when another connection commits."""
    return int(connection.execute("PRAGMA data_version").fetchone()[0])


def keep_to_oneself(path: Path) -> None:
    """Make a file that no other user of this machine reads. OSError.

    One that is there is not so much as opened: on POSIX a process that closes a file drops every lock
    it has on it, those of SQLite's own connections too, and another program then takes the log away
    from under them.
    """
    with suppress(FileExistsError):
        os.close(os.open(path, os.O_CREAT | os.O_EXCL | os.O_RDWR, 0o600))


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
    """All that is written inside is kept together, or none of it; within another it is a part of that."""
    if connection.in_transaction:
        yield
        return
    connection.execute("BEGIN IMMEDIATE")
    try:
        yield
        connection.execute("COMMIT")
    except BaseException:
        # A full disk or a failing one has undone it already; what could not be kept is undone now.
        if connection.in_transaction:
            connection.execute("ROLLBACK")
        raise
