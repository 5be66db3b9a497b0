"""What meters show, sent as it comes (server-sent events): by the loop that serves, with no worker held.

However many listen, each thing shown is written once; who takes slowly misses the older ones.
"""

import asyncio
import json
from collections.abc import Callable
from contextlib import suppress
from dataclasses import asdict
from typing import Any

from spare_margin.instruments.watched import Shown
from spare_margin.service.live.room import MeterRoom
from spare_margin.serving.requests import Message
from spare_margin.web.meters.routes import STREAM
from spare_margin.web.meters.view import shown_out

WAITING = 64
"""Events that wait for one listener; the oldest gives way."""
BEAT_S = 10.0
"""With nothing to tell for so long, a beat says that the line still stands."""
AGAIN_S = 5.0
"""How often it is looked at whether who listens still may."""
HEADERS = [
    (b"content-type", b"text/event-stream"),
    (b"cache-control", b"no-store"),
    (b"x-content-type-options", b"nosniff"),
]


class LiveStream:
    """An ASGI application over another, which it asks whether somebody may listen.

    `room_of` gives the meters that are watched; `closing` is set once the server is to end.
    """

    def __init__(
        self, app: Any, room_of: Callable[[], MeterRoom | None], closing: asyncio.Event
    ) -> None:
        self._app, self._room_of, self._closing = app, room_of, closing
        self._queues: set[asyncio.Queue[bytes]] = set()
        self._leave: Callable[[], None] | None = None

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        """Answer one request: the stream here, everything else there."""
        room = self._room_of()
        asked = scope["type"] == "http" and scope["method"] == "GET" and scope["path"] == STREAM
        if not asked or room is None:
            await self._app(scope, receive, send)
            return
        told = await self._asked(scope, receive)
        if _admits(told):
            await self._stream(room, scope, receive, send)
            return
        for message in told:
            await send(message)

    async def _asked(self, scope: Any, receive: Any) -> list[Message]:
        """What the application answers to who wants to listen."""
        told: list[Message] = []

        async def hold(message: Message) -> None:
            told.append(message)

        await self._app(scope, receive, hold)
        return told

    async def _stream(self, room: MeterRoom, scope: Any, receive: Any, send: Any) -> None:
        clock = asyncio.get_running_loop().time
        again = clock() + AGAIN_S
        await send({"type": "http.response.start", "status": 200, "headers": HEADERS})
        waiting: asyncio.Queue[bytes] = asyncio.Queue(WAITING)
        self._join(room, waiting)
        left = asyncio.ensure_future(_gone(receive))
        closed = asyncio.ensure_future(self._closing.wait())
        try:
            for key, shown in room.shown().items():
                await _say(send, event(room, key, shown))
            while not (left.done() or closed.done()):
                # A device that was thrown out meanwhile hears no more.
                if clock() >= again:
                    again = clock() + AGAIN_S
                    if not _admits(await self._asked(scope, _nothing_more)):
                        break
                comes = asyncio.ensure_future(waiting.get())
                done, _ = await asyncio.wait(
                    {comes, left, closed}, timeout=BEAT_S, return_when=asyncio.FIRST_COMPLETED
                )
                if comes in done:
                    await _say(send, comes.result())
                else:
                    comes.cancel()
                    if not done:
                        await _say(send, b": beat\n\n")
        finally:
            self._part(waiting)
            for each in (left, closed):
                each.cancel()
        if not left.done() or left.cancelled():
            with suppress(Exception):
                await send({"type": "http.response.body", "body": b"", "more_body": False})

    def _join(self, room: MeterRoom, waiting: asyncio.Queue[bytes]) -> None:
        self._queues.add(waiting)
        if self._leave is not None:
            return
        loop = asyncio.get_running_loop()

        def tell(key: str, shown: Shown) -> None:
            said = event(room, key, shown)
            # The loop may have ended while a meter still shows something.
            with suppress(RuntimeError):
                loop.call_soon_threadsafe(self._put, said)

        self._leave = room.listen(tell)

    def _put(self, said: bytes) -> None:
        for waiting in self._queues:
            if waiting.full():
                waiting.get_nowait()
            waiting.put_nowait(said)

    def _part(self, waiting: asyncio.Queue[bytes]) -> None:
        self._queues.discard(waiting)
        if not self._queues and self._leave is not None:
            self._leave()
            self._leave = None


def event(room: MeterRoom, key: str, shown: Shown) -> bytes:
    """What a meter shows as one event (WHATWG HTML, 9.2)."""
    return b"data: " + json.dumps(asdict(shown_out(room, key, shown))).encode() + b"\n\n"


def _admits(told: list[Message]) -> bool:
    return bool(told) and told[0].get("status") == 200


async def _nothing_more() -> Message:
    """The rest of a request that has no body."""
    return {"type": "http.request", "body": b"", "more_body": False}


async def _say(send: Any, said: bytes) -> None:
    await send({"type": "http.response.body", "body": said, "more_body": True})


async def _gone(receive: Any) -> None:
    """Ends once whoever listens has gone."""
    while (await receive())["type"] != "http.disconnect":
        pass
