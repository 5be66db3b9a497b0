"""How fast a fuse or breaker opens: the least time, by the multiple of its rating that flows."""

import math
from dataclasses import dataclass
from itertools import pairwise

MULTIPLES = (1.35, 2.0, 3.5, 6.0, 10.0)
"""The multiples of the rating at which a class says its times."""


@dataclass(frozen=True, slots=True)
class FuseClass:
    """A style's least opening times (s) at MULTIPLES of its rating, and what it can break (A).

    `speed` is fast or slow, as the trade calls it.
    """

    style: str
    speed: str
    least_s: tuple[float, ...]
    breaking_a: float

    def carries_s(self, multiple: float) -> float:
        """How long (s) it surely carries this multiple of its rating; endless below the first that is told.

        Between two points the curve is straight on paper with both scales logarithmic.

        >>> fast = FuseClass("blade", "fast", (0.75, 0.15, 0.04, 0.02, 0.01), 1000)
        >>> round(fast.carries_s(2.0), 3), fast.carries_s(1.2)
        (0.15, inf)
        """
        if multiple < MULTIPLES[0]:
            return math.inf
        if multiple >= MULTIPLES[-1]:
            return self.least_s[-1]
        points = list(zip(MULTIPLES, self.least_s, strict=True))
        (m0, s0), (m1, s1) = next((a, b) for a, b in pairwise(points) if a[0] <= multiple < b[0])
        part = math.log(multiple / m0) / math.log(m1 / m0)
        return float(s0 * (s1 / s0) ** part)
