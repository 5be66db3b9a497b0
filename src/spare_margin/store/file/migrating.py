"""Brings a database to the newest schema: numbered steps, each in a transaction of its own."""

import os
import sqlite3
from itertools import count
from pathlib import Path

from filelock import FileLock, Timeout

from spare_margin.store.file.backups import copy
from spare_margin.store.file.database import (
    BUSY_S,
    DatabaseError,
    connect,
    keep_to_oneself,
    migrations,
    snapshot,
)
from spare_margin.store.file.steps import apply_step
from spare_margin.store.file.structure import differences, is_ours, put_right


def migrate(path: Path, up_to: int | None = None) -> Path | None:
    """Bring the database at `path` to the newest schema, making it if it is not there.

    One that holds something already is copied first; the copy, which lies beside it, is what is given back.
    One that lacks something of its own schema is given it. Raises DatabaseError if it is newer than this
    program, or no database of ours.
    """
    _made(path)
    connection = connect(path)
    try:
        if _wanted(path, connection, up_to) == ([], []):
            return None
        # One at a time: two may start at once, and the copy must be of what was there before either.
        with FileLock(path.with_name(f"{path.name}.upgrade"), timeout=BUSY_S * 60):
            before = None
            wanted, lacks = _wanted(path, connection, up_to)
            new = bool(wanted) and wanted[0][0] == 1
            if (wanted or lacks) and not new:
                number = wanted[-1][0] if wanted else migrations()[-1][0]
                before = _not_taken(path.with_name(f"{path.stem}-before-schema-{number}.sqlite3"))
                copy(path, before)
            if lacks and not new:
                put_right(connection)
            for number, sql in wanted:
                apply_step(connection, number, sql)
            return before
    except (sqlite3.Error, Timeout) as trouble:
        raise DatabaseError(f"The database {path} cannot be used: {trouble}.") from None
    finally:
        connection.close()


def _wanted(
    path: Path, connection: sqlite3.Connection, up_to: int | None
) -> tuple[list[tuple[int, str]], list[str]]:
    """The steps still to be done, and what is otherwise than the database's own schema has it.

    Both of one moment: another program may be bringing it up to date. Raises DatabaseError as `_steps`.
    """
    with snapshot(connection):
        return _steps(path, connection, up_to), differences(connection)


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
    if not is_ours(connection):
        raise DatabaseError(f"{path} is no database of Spare Margin.")
    return [step for step in steps if has < step[0] <= (up_to or newest)]


def _not_taken(path: Path) -> Path:
    """This name, or the next that is free: what an earlier upgrade kept stays."""
    names = (path.with_stem(f"{path.stem}-{n}") if n else path for n in count())
    return next(name for name in names if not name.exists())


def _made(path: Path) -> None:
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        keep_to_oneself(path)
    except OSError as trouble:
        raise DatabaseError(f"The database {path} cannot be made: {trouble.strerror}.") from None
    if not os.access(path, os.R_OK):
        raise DatabaseError(f"The database {path} may not be read.")
