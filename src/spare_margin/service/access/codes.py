"""Codes that pair one device each, for some minutes; they are kept in memory alone."""

import secrets
from dataclasses import dataclass
from threading import Lock

ALPHABET = "23456789ABCDEFGHJKLMNPQRSTUVWXYZ"
"""No letters that are taken for figures."""
LETTERS = 8
LASTS_S = 600.0
MOST = 20


@dataclass(frozen=True, slots=True)
class Code:
    """A pairing code and when it ends, on the clock it was made by (s)."""

    text: str
    ends: float


def tidied(said: str) -> str:
    """A code as it is compared.

    >>> tidied("k7qw-2m9x ")
    'K7QW2M9X'
    """
    return "".join(c for c in said.upper() if c.isalnum())


class Codes:
    """The codes that are open. `now` is any clock's seconds, the same at each call."""

    def __init__(self) -> None:
        self._open: dict[str, Code] = {}
        self._lock = Lock()

    def make(self, now: float) -> Code:
        """A new code; where there are many the oldest is closed."""
        text = "".join(secrets.choice(ALPHABET) for _ in range(LETTERS))
        code = Code(text, now + LASTS_S)
        with self._lock:
            self._drop_ended(now)
            while len(self._open) >= MOST:
                del self._open[next(iter(self._open))]
            self._open[text] = code
        return code

    def use(self, said: str, now: float) -> bool:
        """Whether this code is open; it is used up by it."""
        with self._lock:
            self._drop_ended(now)
            return self._open.pop(tidied(said), None) is not None

    def _drop_ended(self, now: float) -> None:
        self._open = {text: code for text, code in self._open.items() if code.ends > now}
