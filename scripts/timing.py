"""How long something takes, for the benches."""

import statistics
import time
from collections.abc import Callable


def median(act: Callable[[], object], times: int = 9) -> float:
    """Seconds of the middle one of several runs, after one that does not count."""
    act()
    took = []
    for _ in range(times):
        start = time.perf_counter()
        act()
        took.append(time.perf_counter() - start)
    return statistics.median(took)
