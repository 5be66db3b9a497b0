"""Where the application answers: a door is one address with a server of its own."""

import asyncio
import logging
import socket
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from threading import Event, Thread
from typing import Any

from hypercorn.asyncio import serve
from hypercorn.config import Config

from spare_margin.serving.requests import PAUSE_S, Message, WholeRequests

log = logging.getLogger(__name__)
MOST_BYTES = 201_000_000
"""No request is longer: the largest log."""
WORKERS = 8
"""Requests that are answered at once, of one door."""


@dataclass(frozen=True, slots=True)
class Certificate:
    """The files of a certificate and of its key, both PEM."""

    certificate: Path
    key: Path


class Door:
    """One address of the application, served from a thread of its own between `open` and `close`.

    `app` is a WSGI application, `listening` a socket that listens already: who comes before the door
    is open waits. With a certificate it speaks TLS.
    """

    def __init__(
        self,
        app: Any,
        listening: socket.socket,
        certificate: Certificate | None = None,
        most_bytes: Callable[[Message], int] = lambda _: MOST_BYTES,
        pause_s: float = PAUSE_S,
    ) -> None:
        self.port: int = listening.getsockname()[1]
        self._listening, self._certificate = listening, certificate
        self._app = WholeRequests(app, most_bytes, pause_s)
        self._loop: asyncio.AbstractEventLoop | None = None
        self._closing = asyncio.Event()
        self._begun = Event()
        self._thread = Thread(target=self.serve, daemon=True)

    def open(self) -> None:
        """Begin to answer."""
        self._thread.start()

    def serve(self) -> None:
        """Answer, in this thread, until it is closed."""
        try:
            asyncio.run(self._serve())
        finally:
            self._begun.set()

    def close(self) -> None:
        """Finish what is under way, and answer no more."""
        if self._thread.ident is None:
            return
        # It may have been opened this very moment: without a loop there is nobody to tell.
        self._begun.wait()
        if self._loop is not None and not self._loop.is_closed():
            self._loop.call_soon_threadsafe(self._closing.set)
        self._thread.join()

    async def _serve(self) -> None:
        self._loop = asyncio.get_running_loop()
        self._begun.set()
        with ThreadPoolExecutor(WORKERS, thread_name_prefix="door") as workers:
            self._loop.set_default_executor(workers)
            config = server_config(self._listening.detach(), self._certificate)
            await serve(self._app, config, mode="asgi", shutdown_trigger=self._closing.wait)


def server_config(listening: int, certificate: Certificate | None) -> Config:
    """How the server is set, over the number of a file that listens."""
    config = Config()
    config.bind = [f"fd://{listening}"]
    config.errorlog = log
    config.include_server_header = False
    # An idle connection is closed by this alone. The server's own read timeout would stop reading from
    # one that is idle and leave it open: what is asked on it then would wait for ever.
    config.keep_alive_timeout = 75
    config.read_timeout = None
    if certificate is not None:
        config.certfile = str(certificate.certificate)
        config.keyfile = str(certificate.key)
    return config
