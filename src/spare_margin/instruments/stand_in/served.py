"""A stand-in as it is served: its meter on a socket and a pseudo-terminal, and its page."""

import logging
from collections.abc import Callable
from typing import TypeVar

from .meter import StandInMeter
from .page import LeadsPage
from .scpi_server import ScpiServer

Made = TypeVar("Made")


class StandIn:
    """A stand-in that answers from now on. Where a port is taken a free one is used."""

    def __init__(self, meter: StandInMeter, port: int, page_port: int) -> None:
        # Each press of its page is no news.
        logging.getLogger("werkzeug").setLevel(logging.CRITICAL)
        self.server = _first_free(lambda at: ScpiServer(meter, at), port)
        self.page = _first_free(lambda at: LeadsPage(self.server, at), page_port)
        self.server.start()
        self.page.start()

    def close(self) -> None:
        """Answer no more."""
        self.page.stop()
        self.server.stop()


def _first_free(make: Callable[[int], Made], port: int) -> Made:
    try:
        return make(port)
    except OSError:
        return make(0)
