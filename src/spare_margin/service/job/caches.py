"""What was worked out lately and never changes: wirings by revision, solved crafts, judgements."""

from collections.abc import Callable, Hashable, Iterable
from threading import Lock
from typing import Any

from cachetools import LRUCache

from spare_margin.core.model.jobs import Revision
from spare_margin.core.model.pieces import Craft
from spare_margin.core.patience import one_at_a_time

MOST_WIRINGS, MOST_SOLVED, MOST_JUDGED = 64, 48, 48


class Caches:
    """Caches of one application, safe between threads. Keys name everything that a value rests on."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._wirings: LRUCache[tuple[str, str], Craft] = LRUCache(MOST_WIRINGS)
        self._solved: LRUCache[Hashable, Any] = LRUCache(MOST_SOLVED)
        self._judged: LRUCache[Hashable, Any] = LRUCache(MOST_JUDGED)
        self._making: dict[Hashable, Lock] = {}

    def wirings(self, job: str) -> dict[str, Craft]:
        """The wirings that are known of one job, by revision id."""
        with self._lock:
            return {r: craft for (j, r), craft in self._wirings.items() if j == job}

    def learn(self, job: str, revisions: Iterable[Revision]) -> None:
        """Remember the wirings of these revisions."""
        with self._lock:
            for revision in revisions:
                self._wirings[job, revision.id] = revision.craft

    def known(self, key: Hashable) -> Any:
        """What was worked out of a wiring, where it is there; None else."""
        with self._lock:
            return self._solved.get(key)

    def solved(self, key: Hashable, make: Callable[[], Any]) -> Any:
        """A solved wiring, made now if it is not there."""
        return self._of(self._solved, key, make)

    def judged(self, key: Hashable, make: Callable[[], Any]) -> Any:
        """What the readings of a wiring say, made now if it is not there."""
        return self._of(self._judged, key, make)

    def _of(self, cache: LRUCache[Hashable, Any], key: Hashable, make: Callable[[], Any]) -> Any:
        with self._lock:
            if key in cache:
                return cache[key]
            making = self._making.setdefault((id(cache), key), Lock())
        # Several may ask at once for the same: it is made once.
        with one_at_a_time(making):
            with self._lock:
                if key in cache:
                    return cache[key]
            try:
                made = make()
                with self._lock:
                    cache[key] = made
            finally:
                with self._lock:
                    self._making.pop((id(cache), key), None)
        return made
