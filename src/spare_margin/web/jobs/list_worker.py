"""Works out how jobs stand, in a thread of its own: who asks for the list waits for no single job."""

import logging
import sqlite3
from collections.abc import Iterable
from concurrent.futures import Future, ThreadPoolExecutor, wait
from threading import Event, Lock

from flask import Flask

from spare_margin.core.patience import TooLong, allow
from spare_margin.service.records.listing import Unworkable, put_down, work_out
from spare_margin.store.file.database import DatabaseError
from spare_margin.web.common.context import connection, open_job

log = logging.getLogger(__name__)
ONE_S = 20.0
"""How long one job may take."""


class ListWorker:
    """Works through jobs one after the other, those asked for last at the end. Safe between threads."""

    def __init__(self, app: Flask) -> None:
        self._app = app
        self._stopped, self._lock = Event(), Lock()
        self._pending: dict[str, Future[bool]] = {}
        self._thread = ThreadPoolExecutor(1, thread_name_prefix="list")

    def work(self, jobs: Iterable[str], seconds: float) -> bool:
        """Have these jobs worked out, and wait for them so long. Whether something could not be kept."""
        with self._lock:
            if self._stopped.is_set():
                return False
            asked = [self._soon(job) for job in jobs]
        done, _ = wait(asked, timeout=seconds)
        return any(not each.cancelled() and not each.result() for each in done)

    def stop(self) -> None:
        """End; what is under way is left at its next step."""
        with self._lock:
            self._stopped.set()
        self._thread.shutdown(wait=False, cancel_futures=True)

    def _soon(self, job: str) -> "Future[bool]":
        held = self._pending.get(job)
        if held is None or held.done():
            held = self._pending[job] = self._thread.submit(self._one, job)
            held.add_done_callback(lambda _: self._pending.pop(job, None))
        return held

    def _one(self, job: str) -> bool:
        """Work out one job and keep it; whether that could be kept, a job that fails as such."""
        try:
            with self._app.app_context():
                allow(ONE_S, self._stopped.is_set)
                try:
                    work_out(connection(), job, open_job)
                except (sqlite3.Error, DatabaseError):
                    raise
                except Exception as trouble:
                    if self._stopped.is_set():
                        return True
                    why: Unworkable = "too_long" if isinstance(trouble, TooLong) else "failed"
                    log.exception("the job %s could not be worked out", job)
                    put_down(connection(), job, why)
        except (sqlite3.Error, DatabaseError) as trouble:
            # A full disk, or a file that may only be read, keeps nobody from seeing what there is.
            log.warning("what a job shows could not be kept: %s", trouble)
            return False
        return True
