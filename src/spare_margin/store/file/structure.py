"""Whether a database has the tables, indexes and triggers of its schema; and how it is given them.

A schema step must never change once a database may have been through it. Two were changed early on, so that
databases are about which say a schema's number and lack a column of it.
"""

import re
import sqlite3
from contextlib import closing
from functools import cache

from spare_margin.store.file.database import migrations, transaction
from spare_margin.store.file.steps import apply_step

Structure = dict[tuple[str, str], str]
"""What makes each table, index or trigger, by its type and name."""


@cache
def _expected(schema: int) -> Structure:
    """The structure that the steps up to a schema make in an empty database."""
    with closing(sqlite3.connect(":memory:", isolation_level=None)) as connection:
        for number, sql in migrations():
            if number <= schema:
                apply_step(connection, number, sql)
        return _structure(connection)


def _structure(connection: sqlite3.Connection) -> Structure:
    rows = connection.execute(
        "SELECT type, name, sql FROM sqlite_master WHERE sql IS NOT NULL AND name NOT LIKE 'sqlite_%'"
    )
    return {(kind, name): sql for kind, name, sql in rows}


def _plain(sql: str) -> str:
    """What makes a table, without comments, quotes and blanks: ways of writing the same thing."""
    return re.sub(r'["\s]', "", re.sub(r"--[^\n]*", "", sql)).lower()


def differences(connection: sqlite3.Connection) -> list[str]:
    """What differs from the structure of the database's own schema, each as its type and name.

    Tables of somebody else's beside ours are nobody's business here.
    """
    schema = connection.execute("PRAGMA user_version").fetchone()[0]
    wanted, found = _expected(schema), _structure(connection)
    looked_at = wanted.keys() | {key for key in found if key[0] != "table"}
    return sorted(
        " ".join(key)
        for key in looked_at
        if _plain(wanted.get(key, "")) != _plain(found.get(key, ""))
    )


def is_ours(connection: sqlite3.Connection) -> bool:
    """Whether a database is empty, or has every table of its schema."""
    schema = connection.execute("PRAGMA user_version").fetchone()[0]
    tables = {name for kind, name in _structure(connection) if kind == "table"}
    wanted = {name for kind, name in _expected(schema) if kind == "table"}
    return wanted <= tables if schema else not tables


def put_right(connection: sqlite3.Connection) -> None:
    """Give a database the structure of its schema; rows keep what has a column there. sqlite3.Error.

    SQLite's own way to change a table: made anew beside the old one, filled, renamed. Nothing is read
    through foreign keys or triggers meanwhile.
    """
    schema = connection.execute("PRAGMA user_version").fetchone()[0]
    wanted = _expected(schema)
    connection.execute("PRAGMA foreign_keys = OFF")
    connection.execute("PRAGMA legacy_alter_table = ON")
    try:
        with transaction(connection):
            found = _structure(connection)
            for kind, name in found:
                if kind in ("trigger", "index", "view"):
                    connection.execute(f'DROP {kind} "{name}"')
            for (kind, name), sql in wanted.items():
                if kind == "table" and _plain(found.get((kind, name), "")) != _plain(sql):
                    _make_anew(connection, name, sql, (kind, name) in found)
            for (kind, _), sql in wanted.items():
                if kind != "table":
                    connection.execute(sql)
    finally:
        connection.execute("PRAGMA legacy_alter_table = OFF")
        connection.execute("PRAGMA foreign_keys = ON")


def _make_anew(connection: sqlite3.Connection, name: str, sql: str, held: bool) -> None:
    if not held:
        connection.execute(sql)
        return
    beside = f"{name}_made_anew"
    connection.execute(re.sub(rf'(?i)^create table "?{name}"?', f'CREATE TABLE "{beside}"', sql))
    both = [c for c in _columns(connection, beside) if c in _columns(connection, name)]
    listed = ", ".join(f'"{c}"' for c in both)
    connection.execute(
        f'INSERT INTO "{beside}" ({listed}) SELECT {listed} FROM "{name}" ORDER BY rowid'
    )
    connection.execute(f'DROP TABLE "{name}"')
    connection.execute(f'ALTER TABLE "{beside}" RENAME TO "{name}"')


def _columns(connection: sqlite3.Connection, table: str) -> list[str]:
    return [row[0] for row in connection.execute("SELECT name FROM pragma_table_info(?)", (table,))]
