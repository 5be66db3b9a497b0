"""What was worked out lately and never changes: wirings by revision, solved crafts, judgements; and what a
database said, for as long as nobody writes to it."""

from collections.abc import Callable, Hashable, Iterable
from threading import Lock
from typing import Any

from cachetools import LRUCache

from spare_margin.core.model.jobs import Revision
from spare_margin.core.model.pieces import Craft

MOST_WIRINGS, MOST_SOLVED, MOST_JUDGED, MOST_READ = 64, 48, 48, 16


class Caches:
    """Caches of one application, safe between threads. Keys name everything that a value rests on."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._wirings: LRUCache[tuple[str, str], Craft] = LRUCache(MOST_WIRINGS)
        self._solved: LRUCache[Hashable, Any] = LRUCache(MOST_SOLVED)
        self._judged: LRUCache[Hashable, Any] = LRUCache(MOST_JUDGED)
        self._read: LRUCache[Hashable, tuple[Hashable, Any]] = LRUCache(MOST_READ)
        self._writes = 0

    def wirings(self, job: str) -> dict[str, Craft]:
        """The wirings that are known of one job, by revision id."""
        with self._lock:
            return {r: craft for (j, r), craft in self._wirings.items() if j == job}

    def learn(self, job: str, revisions: Iterable[Revision]) -> None:
        """Remember the wirings of these revisions."""
        with self._lock:
            for revision in revisions:
                self._wirings[job, revision.id] = revision.craft

    def solved(self, key: Hashable, make: Callable[[], Any]) -> Any:
        """A solved wiring, made now if it is not there."""
        return self._of(self._solved, key, make)

    def judged(self, key: Hashable, make: Callable[[], Any]) -> Any:
        """What the readings of a wiring say, made now if it is not there."""
        return self._of(self._judged, key, make)

    def wrote(self) -> None:
        """Something was kept. A commit stands in the log before it can be seen, while it waits for the
        disk: what was read meanwhile is what was there before, of a log that no longer changes.
        """
        with self._lock:
            self._writes += 1

    def as_kept(self, what: Hashable, state: Hashable | None, read: Callable[[], Any]) -> Any:
        """What a database says of something, read now unless its state is that of the last reading.

        `state` is a `file_state` taken before; None where it cannot tell.
        """
        if state is None:
            return read()
        with self._lock:
            held, state = self._read.get(what), (self._writes, state)
        if held is not None and held[0] == state:
            return held[1]
        said = read()
        with self._lock:
            self._read[what] = state, said
        return said

    def _of(self, cache: LRUCache[Hashable, Any], key: Hashable, make: Callable[[], Any]) -> Any:
        with self._lock:
            if key in cache:
                return cache[key]
        made = make()
        with self._lock:
            cache[key] = made
        return made
