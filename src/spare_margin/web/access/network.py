"""The local network's door as the pages know it; the side that serves makes it."""

from dataclasses import dataclass
from typing import Protocol

from spare_margin.core.errors import SpareMarginError

DOOR = "spare_margin.door"
"""In a request's WSGI environment: through which door it came; without it, from this machine itself."""
LAN = "lan"


class NetworkTrouble(SpareMarginError):
    """The door could not be opened; the message is a sentence."""


@dataclass(frozen=True, slots=True)
class NetworkState:
    """How the door stands: `urls` to reach it, `hosts` as a request may name it, and the fingerprint of its
    certificate where it speaks TLS."""

    is_open: bool
    urls: tuple[str, ...]
    hosts: frozenset[str]
    fingerprint: str = ""


class Network(Protocol):
    """A door that can be opened and closed while the program runs."""

    def state(self) -> NetworkState:
        """How it stands now."""

    def open(self) -> None:
        """Listen on the local network. Raises NetworkTrouble."""

    def close(self) -> None:
        """Listen on this machine alone."""
