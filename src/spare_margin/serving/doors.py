"""Where the application answers: a door is one address with a server of its own."""

import asyncio
import logging
import socket
import ssl
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from threading import Event, Thread
from typing import Any

from hypercorn.app_wrappers import ASGIWrapper
from hypercorn.asyncio.run import worker_serve
from hypercorn.config import Config, Sockets

from spare_margin.service.live.room import MeterRoom
from spare_margin.serving.connection import end_with_the_client
from spare_margin.serving.listening import DESK_CAPS, Caps, Listening
from spare_margin.serving.live import LiveStream
from spare_margin.serving.requests import PAUSE_S, Message, WholeRequests

end_with_the_client()
log = logging.getLogger(__name__)
MOST_BYTES = 201_000_000
"""No request is longer: the largest log."""
WORKERS = 8
"""Requests that are answered at once, of one door."""
GRACE_S = 3.0
"""How long a door that is closed waits for what is under way, and once more after it was cut off."""


@dataclass(frozen=True, slots=True)
class Certificate:
    """The files of a certificate and of its key, both PEM."""

    certificate: Path
    key: Path


class Door:
    """One address of the application, served from a thread of its own between `open` and `close`.

    `app` is a WSGI application, `listening` a socket that listens already: who comes before the door
    is open waits. With a certificate it speaks TLS. `caps` bound how many connections are open at once.
    `room_of` gives the meters that are watched, which it tells of as they come.
    """

    def __init__(
        self,
        app: Any,
        listening: socket.socket,
        certificate: Certificate | None = None,
        most_bytes: Callable[[Message], int] = lambda _: MOST_BYTES,
        pause_s: float = PAUSE_S,
        caps: Caps = DESK_CAPS,
        room_of: Callable[[], MeterRoom | None] = lambda: None,
    ) -> None:
        self.port: int = listening.getsockname()[1]
        self._listening, self._certificate = Listening(listening, caps), certificate
        self._given_up = Event()
        self._workers = ThreadPoolExecutor(WORKERS, thread_name_prefix="door")
        whole = WholeRequests(app, self._workers, most_bytes, self._given_up.is_set, pause_s)
        self._loop: asyncio.AbstractEventLoop | None = None
        self._closing = asyncio.Event()
        self._app = LiveStream(whole, room_of, self._closing)
        self._begun = Event()
        self._thread = Thread(target=self.serve, daemon=True)

    def open(self) -> None:
        """Begin to answer."""
        self._thread.start()

    def serve(self) -> None:
        """Answer, in this thread, until it is closed."""
        try:
            # Only this kind of loop asks the listening socket itself for who comes.
            with asyncio.Runner(loop_factory=asyncio.SelectorEventLoop) as runner:
                runner.get_loop().set_exception_handler(self._unheard)
                runner.run(self._serve())
        except Exception:
            if not self._given_up.is_set():
                raise
        finally:
            self._begun.set()
            self._given_up.set()
            self._workers.shutdown(wait=False, cancel_futures=True)
            self._listening.close()

    def close(self) -> None:
        """Finish what is under way, for a moment; then leave it, and answer no more.

        What is left still runs in its thread until it looks whether it may go on: it changes nothing by
        halves, and nobody waits for it.
        """
        if self._thread.ident is None:
            self._listening.close()
            return
        # It may have been opened this very moment: without a loop there is nobody to tell.
        self._begun.wait()
        if self._loop is not None and not self._loop.is_closed():
            with suppress(RuntimeError):
                self._loop.call_soon_threadsafe(self._closing.set)
        self._thread.join(GRACE_S)
        self._given_up.set()
        if self._thread.is_alive():
            # Who takes no answer keeps the server from closing: its connection is cut.
            self._listening.cut_off()
            self._thread.join(GRACE_S)
        if self._thread.is_alive():
            log.error("the door at port %s did not close in time; it was left", self.port)

    def _unheard(self, loop: asyncio.AbstractEventLoop, context: dict[str, Any]) -> None:
        # What was cut off while it was being answered, or was never asked properly, is no news.
        if not isinstance(context.get("exception"), asyncio.CancelledError | ssl.SSLError):
            loop.default_exception_handler(context)

    async def _serve(self) -> None:
        self._loop = asyncio.get_running_loop()
        self._begun.set()
        config = server_config(self._certificate)
        secure = self._certificate is not None
        sockets = Sockets(
            [self._listening] if secure else [], [] if secure else [self._listening], []
        )
        await worker_serve(
            ASGIWrapper(self._app), config, sockets=sockets, shutdown_trigger=self._closing.wait
        )


def server_config(certificate: Certificate | None) -> Config:
    """How the server is set."""
    config = Config()
    config.graceful_timeout = GRACE_S / 2
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
