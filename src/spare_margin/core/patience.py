"""How long working something out may take, so that whoever waits for it is answered."""

import math
import time
from contextvars import ContextVar

from spare_margin.core.errors import SpareMarginError

_UNTIL: ContextVar[float] = ContextVar("_UNTIL", default=math.inf)


class TooLong(SpareMarginError):
    """Working it out took longer than was allowed."""


def allow(seconds: float) -> None:
    """From now on, here, so many seconds and no more; infinity takes the limit away."""
    _UNTIL.set(time.monotonic() + seconds)


def still_allowed() -> None:
    """Asked in every loop that may take long. Raises TooLong once the time is up."""
    if time.monotonic() > _UNTIL.get():
        raise TooLong("it takes too long to work out")
