"""The door to the local network, opened and closed while the program runs."""

import socket
import sqlite3
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from threading import Lock

from flask import Flask
from werkzeug.http import parse_cookie

from spare_margin.serving.addresses import host_names, lan_addresses
from spare_margin.serving.doors import MOST_BYTES, Certificate, Door
from spare_margin.serving.listening import LAN_CAPS
from spare_margin.serving.requests import Message
from spare_margin.store.file.database import DatabaseError
from spare_margin.web.access.guard import COOKIE, device_of_cookie
from spare_margin.web.access.network import DOOR, LAN, NetworkState, NetworkTrouble

STRANGER_BYTES = 10_000
"""What a device that is not paired may send: its code and its name."""
LOOKED_UP_S = 10.0
"""How long this machine's addresses are taken for what they were."""
EVERY_ADDRESS = "0.0.0.0"


class LanDoor:
    """A door on the local network, over the same application.

    `address` is where it listens, every address of this machine by default; `port` 0 takes a free one. With
    `certificates`, a folder, it speaks TLS.
    """

    def __init__(
        self, app: Flask, port: int, address: str = EVERY_ADDRESS, certificates: Path | None = None
    ) -> None:
        self._app, self._port, self._address = app, port, address
        self._certificates = certificates
        self._door: Door | None = None
        self._fingerprint = ""
        self._lock = Lock()
        self._names = _remembered(self._look_up)

    def open(self) -> None:
        """Listen. Raises NetworkTrouble."""
        with self._lock:
            if self._door is not None:
                return
            try:
                listening = socket.create_server((self._address, self._port))
            except OSError as trouble:
                raise NetworkTrouble(
                    f"Port {self._port} cannot be opened: {trouble.strerror}. Name another with --lan-port."
                ) from None
            try:
                certificate = self._certificate()
            except DatabaseError as trouble:
                listening.close()
                raise NetworkTrouble(str(trouble)) from None
            self._door = Door(
                self._answer,
                listening,
                certificate,
                self._most_bytes,
                caps=LAN_CAPS,
                room_of=lambda: self._app.extensions["meters"],
            )
            self._port = self._door.port
            self._door.open()

    def close(self) -> None:
        """Listen no more."""
        with self._lock:
            closing, self._door = self._door, None
        if closing is not None:
            closing.close()

    def state(self) -> NetworkState:
        """How the door stands now."""
        scheme, own = ("https", 443) if self._certificates else ("http", 80)
        names = self._names()
        hosts = {f"{name}:{self._port}" for name in names}
        hosts |= set(names) if self._port == own else set()
        return NetworkState(
            is_open=self._door is not None,
            urls=tuple(f"{scheme}://{name}:{self._port}/" for name in names),
            hosts=frozenset(hosts),
            fingerprint=self._fingerprint,
        )

    def _look_up(self) -> list[str]:
        if self._address != EVERY_ADDRESS:
            return [self._address]
        return [*lan_addresses(), *host_names()]

    def _certificate(self) -> Certificate | None:
        if self._certificates is None:
            return None
        # Only with TLS: it takes a quarter of a second to load.
        from spare_margin.serving.certificate import certificate_for, fingerprint  # noqa: PLC0415

        made = certificate_for(self._certificates, self._look_up(), datetime.now(UTC))
        self._fingerprint = fingerprint(made)
        return made

    def _answer(self, environ: dict[str, object], start: object) -> object:
        return self._app({**environ, DOOR: LAN}, start)  # type: ignore[arg-type]

    def _most_bytes(self, scope: Message) -> int:
        """Who is not paired sends no more than it takes to be: it is refused before it is read."""
        cookies = [value.decode("latin-1") for name, value in scope["headers"] if name == b"cookie"]
        said = parse_cookie("; ".join(cookies)).get(COOKIE, "")
        try:
            with self._app.app_context():
                paired = said != "" and device_of_cookie(said) is not None
        except (sqlite3.Error, DatabaseError):
            return STRANGER_BYTES
        return MOST_BYTES if paired else STRANGER_BYTES


def _remembered(look: Callable[[], list[str]]) -> Callable[[], list[str]]:
    held: list[str] = []
    until = 0.0

    def names() -> list[str]:
        nonlocal held, until
        if time.monotonic() > until:
            held, until = look(), time.monotonic() + LOOKED_UP_S
        return held

    return names
