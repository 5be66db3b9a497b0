"""Copies of the database made by themselves: when work is done for now, and at least once a day."""

import logging
import sqlite3
import time
from collections.abc import Callable
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path
from threading import Event, Thread

from spare_margin.store.file.backups import Clock, back_up, backups, due, put_away_old
from spare_margin.store.file.database import DatabaseError, connect, data_version

log = logging.getLogger(__name__)
EVERY_S = 60.0
"""How often is looked whether a copy is due."""


def now() -> datetime:
    """This moment, UTC."""
    return datetime.now(UTC)


class BackupKeeper:
    """Looks after the copies of one database while it is served."""

    def __init__(
        self, database: Path, clock: Clock = now, ticks: Callable[[], float] = time.monotonic
    ) -> None:
        self._database, self._clock, self._ticks = database, clock, ticks
        self._connection: sqlite3.Connection | None = None
        self._version = 0
        # Of a clock that nobody sets (s): the last change that is in no copy, and the last copy.
        self._changed: float | None = None
        self._copied: float | None = None
        self._stopped = Event()
        self._thread = Thread(target=self._watch, daemon=True)

    def start(self) -> None:
        """Begin to look, in a thread of its own."""
        self._thread.start()

    def stop(self) -> None:
        """Look no more; what changed since the last copy is copied first."""
        self._stopped.set()
        self._thread.join()

    def _watch(self) -> None:
        with closing(connect(self._database)) as connection:
            self.begin(connection)
            while not self._stopped.wait(EVERY_S):
                self.look()
            self.look(leaving=True)

    def begin(self, connection: sqlite3.Connection) -> None:
        """Watch from now on; what was changed after the last copy, before this start, counts.

        A copy or a change from the future says that the clock was set: then it counts too.
        """
        self._connection = connection
        self._version = self._now_at()
        moment, ticks = self._clock(), self._ticks()
        last = max(
            (b.made_at for b in backups(self._database) if b.made_at <= moment), default=None
        )
        files = (self._database, self._database.with_name(f"{self._database.name}-wal"))
        touched = [datetime.fromtimestamp(f.stat().st_mtime, UTC) for f in files if f.exists()]
        changed = max(touched, default=moment)
        if last is not None:
            self._copied = ticks - (moment - last).total_seconds()
        if last is None or changed > last:
            self._changed = ticks - max(0.0, (moment - changed).total_seconds())

    def look(self, *, leaving: bool = False) -> bool:
        """Make a copy if one is due; with `leaving`, if anything changed. Whether one was made."""
        try:
            version = self._now_at()
            ticks = self._ticks()
            if version != self._version:
                self._version, self._changed = version, ticks
            wanted = due(self._since(self._changed), self._since(self._copied))
            if not wanted and not (leaving and self._changed is not None):
                return False
            made = back_up(self._database, self._clock())
            put_away_old(self._database, self._clock(), made.path)
        except (DatabaseError, sqlite3.Error, OSError) as trouble:
            log.error("no copy was made: %s", trouble)
            return False
        self._changed, self._copied = None, ticks
        return True

    def _since(self, then: float | None) -> float | None:
        return None if then is None else self._ticks() - then

    def _now_at(self) -> int:
        assert self._connection is not None
        return data_version(self._connection)
