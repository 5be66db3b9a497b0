"""One numbered step of the schema, applied in a transaction of its own."""

import json
import sqlite3
from collections.abc import Iterator

from spare_margin.store.file.database import transaction


def apply_step(connection: sqlite3.Connection, number: int, sql: str) -> None:
    """One step, whole or not at all. The version is read again inside the lock: two may start."""
    with transaction(connection):
        if connection.execute("PRAGMA user_version").fetchone()[0] >= number:
            return
        connection.create_function("exact", 1, _exact, deterministic=True)
        for statement in _statements(sql):
            connection.execute(statement)
        connection.execute(f"PRAGMA user_version = {number:d}")


def _exact(number: float | None) -> str:
    """A number as JSON that reads back as the very same: SQLite's own way has fewer digits."""
    return json.dumps(number)


def _statements(sql: str) -> Iterator[str]:
    """Split a script; sqlite3.complete_statement knows about triggers and comments."""
    held = ""
    for line in sql.splitlines(keepends=True):
        held += line
        if sqlite3.complete_statement(held):
            yield held
            held = ""
