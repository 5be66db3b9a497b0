"""What the workshop set for itself: its units and words, and its own rows in the tables."""

import json
import sqlite3
from collections.abc import Mapping

from spare_margin.store.file.database import transaction

Cells = dict[str, str]


def settings(connection: sqlite3.Connection) -> dict[str, str]:
    """Every setting that was ever set."""
    return {row["key"]: row["value"] for row in connection.execute("SELECT * FROM setting")}


def keep_settings(connection: sqlite3.Connection, values: Mapping[str, str]) -> None:
    """Keep these settings; others stay."""
    with transaction(connection):
        connection.executemany(
            "INSERT INTO setting (key, value) VALUES (?, ?)"
            " ON CONFLICT (key) DO UPDATE SET value = excluded.value",
            values.items(),
        )


def own_rows(connection: sqlite3.Connection) -> dict[str, dict[str, Cells]]:
    """The workshop's own rows: table -> key -> cells, in the order they were added."""
    out: dict[str, dict[str, Cells]] = {}
    for row in connection.execute("SELECT shelf, key, cells FROM own_row ORDER BY rowid"):
        out.setdefault(row["shelf"], {})[row["key"]] = json.loads(row["cells"])
    return out


def keep_rows(
    connection: sqlite3.Connection,
    table: str,
    rows: Mapping[str, Mapping[str, str]],
    gone: tuple[str, ...] = (),
) -> None:
    """Take the rows of the keys `gone` out of a table and put these on it, together or not at all."""
    with transaction(connection):
        connection.executemany(
            "DELETE FROM own_row WHERE shelf = ? AND key = ?", ((table, key) for key in gone)
        )
        put_rows(connection, table, rows)


def put_rows(
    connection: sqlite3.Connection, table: str, rows: Mapping[str, Mapping[str, str]]
) -> None:
    """Put own rows into a table. Call inside a transaction."""
    connection.executemany(
        "INSERT INTO own_row (shelf, key, cells) VALUES (?, ?, ?)"
        " ON CONFLICT (shelf, key) DO UPDATE SET cells = excluded.cells",
        ((table, key, json.dumps(dict(cells))) for key, cells in rows.items()),
    )


def jobs_with_size(
    connection: sqlite3.Connection, system: str, value: str, finish: str | None
) -> list[str]:
    """Titles of jobs that have, or once had, a wire of this size (of any finish, for None)."""
    rows = connection.execute(
        """
        SELECT DISTINCT title
        FROM job JOIN revision ON job.id = job_id, json_each(wiring, '$.pieces') piece
        WHERE value ->> '$.size.system' = :system AND value ->> '$.size.value' = :value
          AND (:finish IS NULL OR coalesce(value ->> '$.size.finish', 'plain') = :finish)
        """,
        {"system": system, "value": value, "finish": finish},
    )
    return [row["title"] for row in rows]


def jobs_with_style(connection: sqlite3.Connection, kind: str, style: str) -> list[str]:
    """Titles of jobs that have, or once had, a piece of this kind and style."""
    rows = connection.execute(
        "SELECT DISTINCT title"
        " FROM job JOIN revision ON job.id = job_id, json_each(wiring, '$.pieces') piece"
        " WHERE value ->> '$.kind' = ? AND value ->> '$.style' = ?",
        (kind, style),
    )
    return [row["title"] for row in rows]


def jobs_with_limits(connection: sqlite3.Connection, limit_set: str) -> list[str]:
    """Titles of jobs that are held to this limit set."""
    rows = connection.execute("SELECT title FROM job WHERE limit_set = ?", (limit_set,))
    return [row["title"] for row in rows]
