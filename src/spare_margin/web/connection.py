"""The database connection of a request; ids and times for what it keeps."""

import sqlite3
import uuid
from datetime import UTC, datetime, timedelta

from flask import current_app, g

from spare_margin.store.database import connect


def connection() -> sqlite3.Connection:
    """This request's connection; closed when the request ends."""
    if "connection" not in g:
        g.connection = connect(current_app.config["DATABASE"])
    held: sqlite3.Connection = g.connection
    return held


def new_id() -> str:
    """An id that survives export and import."""
    return uuid.uuid4().hex


def now() -> str:
    """This moment in UTC, ISO 8601."""
    return earlier(0.0)


def earlier(seconds: float) -> str:
    """So many seconds ago in UTC, ISO 8601."""
    moment = datetime.now(UTC) - timedelta(seconds=seconds)
    return moment.isoformat(timespec="milliseconds").replace("+00:00", "Z")
