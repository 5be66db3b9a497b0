"""Devices are paired, known again by a token of their own, and thrown out."""

import hashlib
import secrets
import sqlite3
from datetime import UTC, datetime, timedelta

from spare_margin.core.errors import JobError
from spare_margin.core.model.values import is_seen
from spare_margin.store import devices as store
from spare_margin.store.devices import Device

LASTS = timedelta(days=90)
"""How long a device stays paired."""
SEEN_EVERY = timedelta(minutes=5)
"""How often it is written down that a device was here."""
MOST_DEVICES = 50


def _hash(token: str) -> str:
    # The token is 256 bits at random: there is nothing to guess, so a fast hash is enough.
    return hashlib.sha256(token.encode()).hexdigest()


def _moment(at: datetime) -> str:
    return at.astimezone(UTC).isoformat(timespec="seconds").replace("+00:00", "Z")


def named(name: str, person: str) -> tuple[str, str]:
    """A name and a person as they are kept. JobError names the one that is none."""
    said = []
    for field, text in (("name", name), ("person", person)):
        short = " ".join(text.split())
        if not short:
            raise JobError(field, "is empty", "a name, as: the phone in the van")
        if len(short) > 80:
            raise JobError(field, "is too long", "up to 80 letters")
        try:
            is_seen(short)
        except ValueError as trouble:
            raise JobError(field, str(trouble), "letters, figures and signs") from None
        said.append(short)
    return said[0], said[1]


def pair(
    connection: sqlite3.Connection, name: str, person: str, now: datetime
) -> tuple[Device, str]:
    """A new device, and the token by which it is known again. JobError for a name that is none."""
    name, person = named(name, person)
    store.forget_ended(connection, _moment(now))
    if len(store.devices(connection)) >= MOST_DEVICES:
        raise JobError("name", "there are many devices already", "throw one out first")
    token, at = secrets.token_urlsafe(32), _moment(now)
    device = Device(secrets.token_hex(8), name, person, at, _moment(now + LASTS), at)
    store.add_device(connection, device, _hash(token))
    return device, token


def known(connection: sqlite3.Connection, token: str, now: datetime) -> Device | None:
    """The device with this token; None where it was thrown out, or its time has ended."""
    device = store.device_of(connection, _hash(token))
    if device is None or device.ends_at <= _moment(now):
        return None
    if device.seen_at < _moment(now - SEEN_EVERY):
        store.seen(connection, device.id, _moment(now))
    return device


def renamed(connection: sqlite3.Connection, device: str, name: str, person: str) -> bool:
    """Call a device so; whether there is one. JobError for a name that is none."""
    return store.rename(connection, device, *named(name, person))


def throw_out(connection: sqlite3.Connection, device: str, now: datetime) -> bool:
    """Let a device in no more; whether there was one."""
    return store.remove(connection, device, _moment(now))


def thrown_out(connection: sqlite3.Connection, token: str) -> bool:
    """Whether the device of this token was thrown out: it is to keep nothing of the jobs."""
    return store.was_removed(connection, _hash(token))


devices = store.devices
