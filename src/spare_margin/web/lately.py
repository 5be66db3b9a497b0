"""What was worked out lately and never changes: kept while there is room."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

Made = TypeVar("Made")


class Lately(Generic[Made]):
    """Values by key, the ones not asked for longest let go beyond `most`. Safe between threads."""

    def __init__(self, most: int) -> None:
        self._held: OrderedDict[Hashable, Made] = OrderedDict()
        self._most = most
        self._lock = Lock()

    def of(self, key: Hashable, make: Callable[[], Made]) -> Made:
        """The value of a key, made now if it is not there."""
        with self._lock:
            if key in self._held:
                self._held.move_to_end(key)
                return self._held[key]
        made = make()
        with self._lock:
            self._held[key] = made
            while len(self._held) > self._most:
                self._held.popitem(last=False)
        return made
