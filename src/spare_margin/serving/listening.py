"""A socket that listens, and lets only so many in: of all together, and of one address.

Each connection takes a file of this process, of which a system gives a thousand or so. Who opens more than
his share is turned away at once, before anything is read, so that there is always one left for the desk.
"""

import socket
from collections import Counter
from contextlib import suppress
from dataclasses import dataclass
from threading import Lock
from typing import Any


@dataclass(frozen=True, slots=True)
class Caps:
    """How many connections may be open at once: in all, and of one address."""

    in_all: int
    of_one: int


DESK_CAPS = Caps(200, 200)
"""This machine itself: a browser opens six a window."""
LAN_CAPS = Caps(256, 32)
"""A workshop's phones, each with the six or so connections of its browser."""


class Listening(socket.socket):
    """Takes the place of a socket that listens; it is that one's file from then on."""

    def __init__(self, held: socket.socket, caps: Caps) -> None:
        super().__init__(held.family, held.type, held.proto, fileno=held.detach())
        self._caps, self._lock = caps, Lock()
        self._open: set[_Connection] = set()

    def accept(self) -> tuple[socket.socket, Any]:
        """The next that comes. ConnectionAbortedError for one that is turned away, as for one that left."""
        came, address = super().accept()
        host = address[0] if isinstance(address, tuple) else str(address)
        made = _Connection(came, host, self)
        with self._lock:
            by_host = Counter(each.host for each in self._open)
            let_in = len(self._open) < self._caps.in_all and by_host[host] < self._caps.of_one
            if let_in:
                self._open.add(made)
        if not let_in:
            made.close()
            raise ConnectionAbortedError
        return made, address

    def cut_off(self) -> None:
        """End every connection, whatever is still to be sent."""
        with self._lock:
            left = list(self._open)
        for each in left:
            with suppress(OSError):
                each.shutdown(socket.SHUT_RDWR)

    def gone(self, one: "_Connection") -> None:
        """One has ended."""
        with self._lock:
            self._open.discard(one)


class _Connection(socket.socket):
    """A connection that tells when it ends."""

    def __init__(self, held: socket.socket, host: str, by: Listening) -> None:
        super().__init__(held.family, held.type, held.proto, fileno=held.detach())
        self.host, self._by = host, by

    def close(self) -> None:
        self._by.gone(self)
        super().close()
