"""Every recording that goes on: heard, and saved by a thread of its own every second.

What a recording shows becomes a log of its job, whatever happens to the program: at most the last second
is not in it. A start that was caught, and a change of which somebody said what was moved, become readings.
"""

import sqlite3
from collections.abc import Callable
from contextlib import closing
from dataclasses import dataclass, field, replace
from pathlib import Path
from threading import Event, RLock, Thread

from spare_margin.core.errors import SpareMarginError
from spare_margin.core.model.jobs import LogTrace, LogWindow
from spare_margin.instruments.watched import Shown
from spare_margin.service.errors import NotThere
from spare_margin.service.job.caches import Caches
from spare_margin.service.job.session import JobSession
from spare_margin.service.job.snapshot import job_snapshot
from spare_margin.service.readings import meter_logs as logs
from spare_margin.service.workshop.workshop import workshop
from spare_margin.store import meter_logs as store
from spare_margin.store.file.database import connect, transaction

from .recording import Noted, Recording, Wanted
from .room import MeterRoom

EVERY_S = 1.0
MOST_RECORDINGS = 8
MOST_OVER = 50
"""Recordings that are over and still told of; their logs stay in the jobs."""
AROUND_CHANGE_S = 1.5
"""A change's reading holds so much of what was before it and after it (s)."""


@dataclass
class Recorder:
    """Records for jobs of one database, from meters of one room, until it is closed."""

    database: Path
    room: MeterRoom
    caches: Caches
    _all: list[Recording] = field(default_factory=list)
    _leave: Callable[[], None] | None = None
    _stop: Event = field(default_factory=Event)
    _thread: Thread | None = None
    _lock: RLock = field(default_factory=RLock)
    _saving: RLock = field(default_factory=RLock)

    def begin(self, wanted: Wanted, back_s: float = 0.0) -> Recording:
        """Record from now on, and what was shown in the last seconds. The same id again is the same."""
        with self._lock:
            held = self.find(wanted.job, wanted.id)
            if held is not None:
                return held
            made = Recording(wanted)
            if back_s > 0:
                self._look_back(made, back_s)
            over = [each for each in self._all if each.is_over]
            self._all = [each for each in self._all if each not in over[:-MOST_OVER]] + [made]
            if self._leave is None:
                self._leave = self.room.listen(self._tell)
            if self._thread is None:
                self._thread = Thread(target=self._keep_on, daemon=True, name="recorder")
                self._thread.start()
        return made

    def of(self, job: str) -> list[Recording]:
        """The recordings of a job since the program was started, the newest last."""
        with self._lock:
            return [each for each in self._all if each.wanted.job == job]

    def running(self) -> int:
        """How many recordings go on."""
        with self._lock:
            return sum(not each.is_over for each in self._all)

    def find(self, job: str, recording: str) -> Recording | None:
        """One recording of a job; None where there is none of this id."""
        return next((each for each in self.of(job) if each.wanted.id == recording), None)

    def close(self) -> None:
        """End every recording, and save what there is."""
        self._stop.set()
        if self._leave is not None:
            self._leave()
        with self._lock:
            for each in self._all:
                if not each.is_over:
                    each.stop()
        if self._thread is not None:
            self._thread.join()
            self.save()

    def save(self) -> None:
        """Save what is not saved yet."""
        with self._saving, self._lock:
            due = [each for each in self._all if each.due()]
        if not due:
            return
        with self._saving, closing(connect(self.database)) as connection:
            for each in due:
                try:
                    self._save(connection, each)
                except NotThere:
                    each.stop()
                except (SpareMarginError, sqlite3.Error) as trouble:
                    each.wrong = str(trouble)

    def _keep_on(self) -> None:
        while not self._stop.wait(EVERY_S):
            self.save()

    def _tell(self, meter: str, shown: Shown) -> None:
        for each in self._all:
            if not each.is_over:
                each.hear(meter, shown)

    def _look_back(self, made: Recording, seconds: float) -> None:
        """Take what the meters showed lately, as it came."""
        came = sorted(
            (
                (sample.at_s, meter.meter, at, sample)
                for meter in made.wanted.meters
                for at, sample in self.room.lately(meter.meter, seconds)
            ),
            key=lambda each: each[:2],
        )
        for _, meter, at, sample in came:
            made.before(meter, [(at, sample)])

    def _save(self, connection: sqlite3.Connection, each: Recording) -> None:
        wanted = each.wanted
        log, channels, segments = each.log()
        if len(log.seconds) == 0:
            return
        trace = logs.traced(wanted.id, wanted.name, log, channels, segments)
        session = self._session(connection, wanted.job)
        with transaction(connection):
            store.put_log(connection, wanted.job, trace, log, is_over=each.is_over)
        each.wrong, each.is_saved = "", True
        if each.start is not None and not each.start_taken:
            if each.start.shows(each.hold):
                window = each.window(each.start.from_s, each.start.end_s)
                self._take(connection, session, each, trace, window, each.hold, "start")
            each.start_taken = True
        for number, noted in enumerate(each.changes):
            if noted.moved is not None and not noted.taken:
                self._take_change(connection, each, trace, number, noted)
                noted.taken = True

    def _take_change(
        self,
        connection: sqlite3.Connection,
        each: Recording,
        trace: LogTrace,
        number: int,
        noted: Noted,
    ) -> None:
        """Least and most around a change, while a piece was moved; else what was before it, and while."""
        change = noted.change
        session = self._session(connection, each.wanted.job)
        if noted.moved:
            window = each.window(change.start_s - AROUND_CHANGE_S, change.end_s + AROUND_CHANGE_S)
            for figure in ("least", "most"):
                self._take(
                    connection, session, each, trace, window, figure, f"{number}-{figure}", noted.moved
                )  # fmt: skip
                session = self._session(connection, each.wanted.job)
            return
        before = each.window(change.start_s - AROUND_CHANGE_S, change.start_s - 1e-6)
        meanwhile = each.window(change.start_s, change.end_s)
        for name, window in (("before", before), ("while", meanwhile)):
            self._take(connection, session, each, trace, window, "mean", f"{number}-{name}")
            session = self._session(connection, each.wanted.job)

    def _take(
        self,
        connection: sqlite3.Connection,
        session: JobSession,
        each: Recording,
        trace: LogTrace,
        window: tuple[float, float],
        figure: str,
        name: str,
        moved: str = "",
    ) -> None:
        typed = replace(each.wanted.typed, id=f"{each.wanted.id}-{name}", moved=moved)
        made = LogWindow(
            log=trace.id, channel=0, figure=figure or "mean",  # type: ignore[arg-type]
            start_s=window[0], end_s=window[1],
        )  # fmt: skip
        logs.take_from(connection, self.caches, session, trace, made, typed)

    def _session(self, connection: sqlite3.Connection, job: str) -> JobSession:
        found = job_snapshot(connection, job, self.caches.wirings(job))
        if found is None:
            raise NotThere("There is no such job.")
        self.caches.learn(job, found.revisions.values())
        shop = workshop(connection)
        return JobSession(found, shop.tables, shop.meter, self.caches)
