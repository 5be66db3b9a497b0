"""How long working something out may take, so that whoever waits for it is answered."""

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


class TooLong(SpareMarginError):
    """Working it out took longer than was allowed."""


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
