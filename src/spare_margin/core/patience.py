"""How long working something out may take, and how much memory, so that whoever waits is answered."""

import math
import time
from collections.abc import Callable
from contextvars import ContextVar

from spare_margin.core.errors import SpareMarginError


def never() -> bool:
    """Whoever asked still waits."""
    return False


_UNTIL: ContextVar[float] = ContextVar("_UNTIL", default=math.inf)
_GIVEN_UP: ContextVar[Callable[[], bool]] = ContextVar("_GIVEN_UP", default=never)


MOST_FLOATS = 40_000_000
"""The largest array that may be made at once: 320 MB."""


class TooLong(SpareMarginError):
    """Working it out took longer, or would take more memory, than was allowed."""


def room_for(floats: int) -> None:
    """Asked before an array that may be large is made. Raises TooLong where it would be too large."""
    if floats > MOST_FLOATS:
        raise TooLong("there is too much to work out at once")


def allow(seconds: float, given_up: Callable[[], bool] = never) -> None:
    """From now on, here, so many seconds and no more, and only while `given_up` says no.

    Infinity takes the limit away.
    """
    _UNTIL.set(time.monotonic() + seconds)
    _GIVEN_UP.set(given_up)


def still_allowed() -> None:
    """Asked in every loop that may take long. Raises TooLong once the time is up, or nobody waits."""
    if time.monotonic() > _UNTIL.get() or _GIVEN_UP.get()():
        raise TooLong("it takes too long to work out")
