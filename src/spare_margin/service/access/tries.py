"""Wrong tries at the door: each one makes the next wait longer, many are refused for a while."""

from dataclasses import dataclass
from threading import Lock

FREE = 3
"""Wrong tries that cost nothing: a thumb slips."""
REFUSED_AFTER = 10
REFUSED_S = 900.0
FORGOTTEN_S = 3600.0
EVERYBODY = 60
"""Wrong tries of all together within an hour, after which nobody is let in by a passphrase for a while."""
EVERYBODY_BY_CODE = 2000
"""The same of codes, each of which is one of 10^12 and lasts ten minutes: guessing gets nowhere, and who
holds a code is not to be kept out by those who guess."""
MOST_KNOWN = 5000


@dataclass(slots=True)
class _Count:
    wrong: int = 0
    last: float = 0.0


class Tries:
    """Counts wrong tries by who makes them; `everybody` bounds those of all together.

    `now` is any clock's seconds, the same at each call.

    >>> tries = Tries()
    >>> [tries.wrong("phone", 100.0) for _ in range(6)]
    [0.0, 0.0, 0.0, 2.0, 4.0, 8.0]
    >>> tries.wait("phone", 103.0), tries.wait("another", 103.0)
    (5.0, 0.0)
    """

    def __init__(self, everybody: int = EVERYBODY) -> None:
        self._everybody = everybody
        self._of: dict[str, _Count] = {}
        self._all = _Count()
        self._lock = Lock()

    def wait(self, who: str, now: float) -> float:
        """Seconds until somebody may try again."""
        with self._lock:
            own = self._of.get(who, _Count())
            return max(
                _wait(own, now, FREE, REFUSED_AFTER),
                _wait(self._all, now, self._everybody, self._everybody),
            )

    def wrong(self, who: str, now: float) -> float:
        """One was wrong; seconds until the next."""
        with self._lock:
            if len(self._of) >= MOST_KNOWN:
                self._of = {w: c for w, c in self._of.items() if now - c.last < REFUSED_S}
            own = self._of.setdefault(who, _Count())
            for count in (own, self._all):
                if now - count.last > FORGOTTEN_S:
                    count.wrong = 0
                count.wrong += 1
                count.last = now
        return self.wait(who, now)

    def right(self, who: str) -> None:
        """One was right: what was wrong before is forgotten."""
        with self._lock:
            self._of.pop(who, None)


def _wait(count: _Count, now: float, free: int, refused_after: int) -> float:
    """Seconds from now until the next try, after so many wrong ones."""
    if count.wrong <= free:
        return 0.0
    pause = REFUSED_S if count.wrong > refused_after else float(2 ** (count.wrong - free))
    return max(0.0, count.last + pause - now)
