"""A request is handed to the application once all of it is here.

So whoever sends slowly, or never ends, keeps a connection of its own and no worker; what is too large is
refused before it is read; and what broke off on its way is not taken for the whole.
"""

import asyncio
from collections.abc import Awaitable, Callable, Iterable, Iterator, MutableMapping
from contextlib import closing
from tempfile import SpooledTemporaryFile
from typing import IO, Any

from flask import Response
from hypercorn.middleware import AsyncioWSGIMiddleware

from spare_margin.web.problems import too_large, too_slow

Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
IN_MEMORY = 1_000_000
"""Bytes of a body that are held in memory; longer ones wait on disk."""
PAUSE_S = 30.0
"""How long a sender may pause in the middle of a body."""


class TooLarge(Exception):
    """There is more of a body than may be."""


class BrokenOff(Exception):
    """Who sent a request went away before all of it was here."""


class Paused(Exception):
    """Who sends a request has sent nothing for too long."""


class WholeRequests:
    """An ASGI application over a WSGI one.

    `most_bytes` tells of a request how long its body may be, `pause_s` how long its sender may pause.
    """

    def __init__(
        self, app: Any, most_bytes: Callable[[Message], int], pause_s: float = PAUSE_S
    ) -> None:
        self._app, self._most_bytes, self._pause_s = app, most_bytes, pause_s

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        """Answer one request, or leave to the server what is none."""
        if scope["type"] != "http":
            await AsyncioWSGIMiddleware(self._app, 0)(scope, receive, send)
            return
        with SpooledTemporaryFile(IN_MEMORY) as body:
            try:
                await _receive(scope, receive, body, self._most_bytes(scope), self._pause_s)
            except TooLarge:
                await _refuse(send, too_large())
            except Paused:
                await _refuse(send, too_slow())
            except BrokenOff:
                return
            else:
                await AsyncioWSGIMiddleware(_reading(self._app, body), 0)(scope, _nothing, send)


async def _receive(
    scope: Message, receive: Receive, body: IO[bytes], most: int, pause_s: float
) -> None:
    """All of a body, ready to be read from its start. Raises TooLarge, BrokenOff, Paused."""
    if _announced(scope) > most:
        raise TooLarge
    more = True
    while more:
        try:
            message = await asyncio.wait_for(receive(), pause_s)
        except TimeoutError:
            raise Paused from None
        if message["type"] != "http.request":
            raise BrokenOff
        body.write(message.get("body", b""))
        if body.tell() > most:
            raise TooLarge
        more = message.get("more_body", False)
    body.seek(0)


def _reading(app: Any, body: IO[bytes]) -> Any:
    """The application, reading this body. It always says something: an answer without a body, as of a page
    that has not changed, would else not be begun."""

    def answer(environ: dict[str, Any], start: Any) -> Iterator[bytes]:
        with closing(_Closing(app({**environ, "wsgi.input": body}, start))) as said:
            yield from said.parts
            yield b""

    return answer


class _Closing:
    """What a WSGI application answered, to be closed when all of it was sent."""

    def __init__(self, parts: Iterable[bytes]) -> None:
        self.parts = parts

    def close(self) -> None:
        if hasattr(self.parts, "close"):
            self.parts.close()


async def _nothing() -> Any:
    return {"type": "http.request", "body": b"", "more_body": False}


def _announced(scope: Message) -> int:
    """The bytes a request says it has."""
    said = next((value for name, value in scope["headers"] if name == b"content-length"), b"0")
    return int(said) if said.isdigit() else 0


async def _refuse(send: Send, answer: Response) -> None:
    """Say why, and close: what is still to come is not read."""
    headers = [(k.lower().encode(), v.encode()) for k, v in answer.headers.items()]
    headers.append((b"connection", b"close"))
    await send({"type": "http.response.start", "status": answer.status_code, "headers": headers})
    await send({"type": "http.response.body", "body": answer.get_data(), "more_body": False})
