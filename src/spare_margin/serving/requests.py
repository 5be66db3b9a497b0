"""A request is handed to the application once all of it is here, an answer sent once all of it is made.

So whoever sends or takes slowly, or never ends, keeps a connection of its own and no worker; what is too
large is refused before it is read; what broke off on its way is not taken for the whole; and a worker never
waits for the loop that serves, which may end before it does.
"""

import asyncio
from collections.abc import Awaitable, Callable, Iterable, Iterator, MutableMapping
from concurrent.futures import Executor
from contextlib import closing
from tempfile import SpooledTemporaryFile
from typing import IO, Any

from flask import Response
from hypercorn.app_wrappers import WSGIWrapper

from spare_margin.web.common.context import GIVEN_UP
from spare_margin.web.problems import too_large, too_slow

Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
IN_MEMORY = 1_000_000
"""Bytes of a body that are held in memory; longer ones wait on disk, either way."""
PIECE = 65_536
"""Bytes of an answer that are sent at once."""
PAUSE_S = 30.0
"""How long a sender may pause in the middle of a body."""


class TooLarge(Exception):
    """There is more of a body than may be."""


class BrokenOff(Exception):
    """Who sent a request went away before all of it was here."""


class Paused(Exception):
    """Who sends a request has sent nothing for too long."""


class WholeRequests:
    """An ASGI application over a WSGI one, which answers in the threads of `workers`.

    `most_bytes` tells of a request how long its body may be, `pause_s` how long its sender may pause;
    `given_up` whether nobody waits for answers any more.
    """

    def __init__(
        self,
        app: Any,
        workers: Executor,
        most_bytes: Callable[[Message], int],
        given_up: Callable[[], bool],
        pause_s: float = PAUSE_S,
    ) -> None:
        self._app, self._workers, self._given_up = app, workers, given_up
        self._most_bytes, self._pause_s = most_bytes, pause_s

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        """Answer one request, or leave to the server what is none."""
        if scope["type"] != "http":
            await WSGIWrapper(self._app, 0)(scope, receive, send, _never, _never)
            return
        with SpooledTemporaryFile(IN_MEMORY) as body, SpooledTemporaryFile(IN_MEMORY) as answer:
            most = await self._most(scope)
            try:
                await _receive(scope, receive, body, most, self._pause_s)
            except TooLarge:
                await _refuse(send, too_large(most))
            except Paused:
                await _refuse(send, too_slow())
            except BrokenOff:
                return
            else:
                begun = await self._worked_out(scope, body, answer)
                await _send(send, begun, answer)

    async def _most(self, scope: Message) -> int:
        """How long a body may be; a request that only asks is not looked up for it."""
        names = {name for name, _ in scope["headers"]}
        announced = names & {b"content-length", b"transfer-encoding"}
        # HTTP/2 sends a body without announcing it (RFC 9113, 8.1).
        if scope["method"] in ("GET", "HEAD") and not announced:
            return 0
        return await asyncio.get_running_loop().run_in_executor(
            self._workers, self._most_bytes, scope
        )

    async def _worked_out(self, scope: Any, body: IO[bytes], answer: IO[bytes]) -> Message:
        """How the answer begins; what it says is written to `answer`."""
        begun: Message = {}

        def held(_: Any, message: Message) -> None:
            if message["type"] == "http.response.start":
                begun.update(message)
            else:
                answer.write(message["body"])

        async def spawn(run: Callable[..., None], *given: Any) -> None:
            await asyncio.get_running_loop().run_in_executor(self._workers, run, *given)

        async def ended(_: Any) -> None:
            pass

        app = _reading(self._app, body, self._given_up)
        await WSGIWrapper(app, 0)(scope, _nothing, ended, spawn, held)
        answer.seek(0)
        return begun


async def _never(*_: Any) -> None:
    raise AssertionError("what is no request is not worked on")


async def _send(send: Send, begun: Message, answer: IO[bytes]) -> None:
    await send(begun)
    while piece := answer.read(PIECE):
        await send({"type": "http.response.body", "body": piece, "more_body": True})
    await send({"type": "http.response.body", "body": b"", "more_body": False})


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


def _reading(app: Any, body: IO[bytes], given_up: Callable[[], bool]) -> Any:
    """The application, reading this body. It always says something: an answer without a body, as of a page
    that has not changed, would else not be begun."""

    def answer(environ: dict[str, Any], start: Any) -> Iterator[bytes]:
        more = {"wsgi.input": body, GIVEN_UP: given_up}
        with closing(_Closing(app({**environ, **more}, start))) as said:
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
