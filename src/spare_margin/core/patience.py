"""How long working something out may take, and how much memory, so that whoever waits is answered."""

import math
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from threading import Lock

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
    """Asked before an array that may be large is made. Raises TooLong where it would be too large.

    Args:
        floats: how many numbers it would hold.
    """
    if floats > MOST_FLOATS:
        raise TooLong("there is too much to work out at once")


def allow(seconds: float, given_up: Callable[[], bool] = never) -> None:
    """From now on, here, so many seconds and no more, and only while `given_up` says no.

    Infinity takes the limit away.
    """
    _UNTIL.set(time.monotonic() + seconds)
    _GIVEN_UP.set(given_up)


def left_s() -> float:
    """How many seconds are left of what is allowed; none of them negative."""
    return max(0.0, _UNTIL.get() - time.monotonic())


@contextmanager
def at_most(seconds: float) -> Iterator[None]:
    """Inside, no more than so many seconds, nor than what was allowed before."""
    until = _UNTIL.get()
    _UNTIL.set(min(until, time.monotonic() + seconds))
    try:
        yield
    finally:
        _UNTIL.set(until)


@contextmanager
def one_at_a_time(lock: Lock) -> Iterator[None]:
    """Hold a lock while something is worked out that others may be asking for too.

    Raises TooLong where it is not free within what is allowed.
    """
    patience = left_s()
    if not lock.acquire(timeout=-1 if math.isinf(patience) else patience):
        raise TooLong("somebody else is still working it out")
    try:
        yield
    finally:
        lock.release()


def still_allowed() -> None:
    """Asked in every loop that may take long. Raises TooLong once the time is up, or nobody waits."""
    if time.monotonic() > _UNTIL.get() or _GIVEN_UP.get()():
        raise TooLong("it takes too long to work out")
