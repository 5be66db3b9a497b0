"""Crafts saved as templates: each a job file's text under a name."""

import sqlite3
from dataclasses import dataclass

from spare_margin.store.file.database import transaction


@dataclass(frozen=True, slots=True)
class Template:
    """A template: what it is called, when it was made (UTC, ISO 8601), its job file."""

    id: str
    name: str
    made_at: str
    document: str


def templates(connection: sqlite3.Connection) -> list[Template]:
    """Every template by its name."""
    rows = connection.execute(
        "SELECT id, name, made_at, document FROM template ORDER BY name COLLATE NOCASE, id"
    )
    return [Template(*row) for row in rows]


def template(connection: sqlite3.Connection, template_id: str) -> Template | None:
    """The template of this id."""
    row = connection.execute(
        "SELECT id, name, made_at, document FROM template WHERE id = ?", (template_id,)
    ).fetchone()
    return None if row is None else Template(*row)


def keep_template(connection: sqlite3.Connection, made: Template) -> None:
    """Keep a template; one of the same name gives way to it."""
    with transaction(connection):
        connection.execute("DELETE FROM template WHERE name = ?", (made.name,))
        connection.execute(
            "INSERT INTO template (id, name, made_at, document) VALUES (?, ?, ?, ?)",
            (made.id, made.name, made.made_at, made.document),
        )


def drop_template(connection: sqlite3.Connection, template_id: str) -> bool:
    """Take a template out; whether there was one."""
    with transaction(connection):
        made = connection.execute("DELETE FROM template WHERE id = ?", (template_id,))
    return made.rowcount > 0
