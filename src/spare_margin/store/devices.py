"""Devices that were paired, and the two secrets of the door."""

import sqlite3
from dataclasses import dataclass
from typing import Literal

from spare_margin.store.file.database import transaction

SecretKey = Literal["passphrase", "cookies"]


@dataclass(frozen=True, slots=True)
class Device:
    """A device that may come in: what it is called, whose it is, until when. Moments are UTC, ISO 8601."""

    id: str
    name: str
    person: str
    paired_at: str
    ends_at: str
    seen_at: str


COLUMNS = "id, name, person, paired_at, ends_at, seen_at"


def devices(connection: sqlite3.Connection) -> list[Device]:
    """Every device, the one paired last first."""
    rows = connection.execute(
        f"SELECT {COLUMNS} FROM device WHERE removed_at IS NULL ORDER BY paired_at DESC, id"
    )
    return [Device(*row) for row in rows]


def device_of(connection: sqlite3.Connection, token_hash: str) -> Device | None:
    """The device that may come in with the token of this hash."""
    row = connection.execute(
        f"SELECT {COLUMNS} FROM device WHERE token_hash = ? AND removed_at IS NULL", (token_hash,)
    ).fetchone()
    return None if row is None else Device(*row)


def was_removed(connection: sqlite3.Connection, token_hash: str) -> bool:
    """Whether the device of this token was removed."""
    found = "SELECT 1 FROM device WHERE token_hash = ? AND removed_at IS NOT NULL"
    return connection.execute(found, (token_hash,)).fetchone() is not None


def add_device(connection: sqlite3.Connection, device: Device, token_hash: str) -> None:
    """Keep a new device."""
    with transaction(connection):
        connection.execute(
            f"INSERT INTO device ({COLUMNS}, token_hash) VALUES (?, ?, ?, ?, ?, ?, ?)",
            (
                device.id, device.name, device.person, device.paired_at, device.ends_at,
                device.seen_at, token_hash,
            ),
        )  # fmt: skip


def rename(connection: sqlite3.Connection, device: str, name: str, person: str) -> bool:
    """Call a device so; whether there is one."""
    with transaction(connection):
        made = connection.execute(
            "UPDATE device SET name = ?, person = ? WHERE id = ? AND removed_at IS NULL",
            (name, person, device),
        )
    return made.rowcount > 0


def seen(connection: sqlite3.Connection, device: str, moment: str) -> None:
    """It was here at this moment."""
    with transaction(connection):
        connection.execute("UPDATE device SET seen_at = ? WHERE id = ?", (moment, device))


def remove(connection: sqlite3.Connection, device: str, moment: str) -> bool:
    """Let a device in no more; whether there was one."""
    with transaction(connection):
        made = connection.execute(
            "UPDATE device SET removed_at = ? WHERE id = ? AND removed_at IS NULL", (moment, device)
        )
    return made.rowcount > 0


def forget_ended(connection: sqlite3.Connection, moment: str) -> None:
    """Take out devices whose time has ended."""
    with transaction(connection):
        connection.execute("DELETE FROM device WHERE ends_at <= ?", (moment,))


def secret(connection: sqlite3.Connection, key: SecretKey) -> str | None:
    """A secret; None before it was set."""
    row = connection.execute("SELECT value FROM secret WHERE key = ?", (key,)).fetchone()
    return None if row is None else str(row[0])


def keep_secret(connection: sqlite3.Connection, key: SecretKey, value: str) -> None:
    """Set a secret."""
    with transaction(connection):
        connection.execute(
            "INSERT INTO secret VALUES (?, ?) ON CONFLICT (key) DO UPDATE SET value = excluded.value",
            (key, value),
        )


def keep_secret_once(connection: sqlite3.Connection, key: SecretKey, value: str) -> str:
    """Set a secret unless there is one; the one that stands."""
    with transaction(connection):
        connection.execute("INSERT INTO secret VALUES (?, ?) ON CONFLICT DO NOTHING", (key, value))
    return secret(connection, key) or value
