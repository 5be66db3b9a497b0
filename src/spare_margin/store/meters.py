"""The meters that were added: where each is, and how it is understood."""

import sqlite3

from spare_margin.core.model.meters import Connection
from spare_margin.store.file.database import transaction

COLUMNS = ("id", "name", "speaks", "address", "spec", "figure", "unit", "baud", "on_source")


def connections(connection: sqlite3.Connection) -> list[Connection]:
    """Every meter that was added, by its name."""
    rows = connection.execute(
        f"SELECT {', '.join(COLUMNS)} FROM meter ORDER BY name COLLATE NOCASE, id"
    )
    held = [{column: row[column] for column in COLUMNS} for row in rows]
    return [Connection(**{**row, "on_source": bool(row["on_source"])}) for row in held]


def keep_connection(connection: sqlite3.Connection, made: Connection) -> None:
    """Keep a meter; one of the same id gives way to it."""
    marks = ", ".join("?" * len(COLUMNS))
    with transaction(connection):
        connection.execute("DELETE FROM meter WHERE id = ?", (made.id,))
        connection.execute(
            f"INSERT INTO meter ({', '.join(COLUMNS)}) VALUES ({marks})",
            [getattr(made, column) for column in COLUMNS],
        )


def drop_connection(connection: sqlite3.Connection, meter_id: str) -> bool:
    """Take a meter out; whether there was one."""
    with transaction(connection):
        gone = connection.execute("DELETE FROM meter WHERE id = ?", (meter_id,))
    return gone.rowcount > 0
