"""A connection of the server that ends when the other side ends it.

Hypercorn ends one whose client has gone only when an idle one would be. It counts as open until then, and
two hundred short visits within that time would fill a door.
"""

from typing import Any

from hypercorn.asyncio import run
from hypercorn.asyncio.tcp_server import TCPServer
from hypercorn.events import Event, Updated


class Connection(TCPServer):
    """Waits for nothing more once there is nothing more to be read."""

    def __init__(self, *made: Any) -> None:
        super().__init__(*made)
        self._heard_all = False

    async def _read_data(self) -> None:
        await super()._read_data()
        self._heard_all = True
        await self.idle_task.stop()

    async def protocol_send(self, event: Event) -> None:
        """What an answer or its end means for the connection; after the last one it is never idle again."""
        if not (self._heard_all and isinstance(event, Updated)):
            await super().protocol_send(event)


def end_with_the_client() -> None:
    """Let the server make its connections of this kind: it has no setting for that."""
    setattr(run, "TCPServer", Connection)  # noqa: B010  # it is not a name that the module gives out
