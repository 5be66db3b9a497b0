"""Brings a database to the newest schema: numbered steps, each in a transaction of its own."""

import sqlite3
from collections.abc import Iterator
from pathlib import Path

from filelock import FileLock, Timeout

from spare_margin.store.file.backups import copy
from spare_margin.store.file.database import (
    BUSY_S,
    DatabaseError,
    connect,
    keep_to_oneself,
    migrations,
    transaction,
)


def migrate(path: Path, up_to: int | None = None) -> Path | None:
    """Bring the database at `path` to the newest schema, making it if it is not there.

    One that holds something already is copied first; the copy, which lies beside it, is what is given back.
    Raises DatabaseError if it is newer than this program, or no database of ours.
    """
    _made(path)
    connection = connect(path)
    try:
        if not _steps(path, connection, up_to):
            return None
        # One at a time: two may start at once, and the copy must be of what was there before either.
        with FileLock(path.with_name(f"{path.name}.upgrade"), timeout=BUSY_S * 60):
            before = None
            wanted = _steps(path, connection, up_to)
            if wanted and wanted[0][0] > 1:
                before = path.with_name(f"{path.stem}-before-schema-{wanted[-1][0]}.sqlite3")
                copy(path, before)
            for number, sql in wanted:
                _apply(connection, number, sql)
            return before
    except (sqlite3.Error, Timeout) as trouble:
        raise DatabaseError(f"The database {path} cannot be used: {trouble}.") from None
    finally:
        connection.close()


def _steps(path: Path, connection: sqlite3.Connection, up_to: int | None) -> list[tuple[int, str]]:
    """The steps that are still to be done. Raises DatabaseError if it is newer than this program."""
    steps = migrations()
    newest = steps[-1][0]
    has = connection.execute("PRAGMA user_version").fetchone()[0]
    if has > newest:
        raise DatabaseError(
            f"The database {path} was written by a newer Spare Margin (schema {has}; this one "
            f"knows {newest}). Update the program, or name another file with --database."
        )
    return [step for step in steps if has < step[0] <= (up_to or newest)]


def _made(path: Path) -> None:
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        keep_to_oneself(path)
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
