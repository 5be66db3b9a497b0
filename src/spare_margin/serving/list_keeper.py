"""Has the list of jobs worked out while nobody looks: what changed, or thousands just brought in."""

import logging
import sqlite3
import time
from contextlib import closing
from threading import Event, Thread
from typing import cast

from flask import Flask, request

from spare_margin.store import records
from spare_margin.store.file.database import DatabaseError, connect
from spare_margin.web.jobs.list_worker import ListWorker

log = logging.getLogger(__name__)
EVERY_S, QUIET_S = 2.0, 4.0
"""How often it looks, and how long nobody may have asked for anything: people come first."""
AHEAD = 10
"""So many jobs are asked for at once."""
WORK_S, REST_S = 1.0, 0.2
"""How long it waits for them, and how long it then rests, so that who comes is answered."""
STOPPING_S = 2.0
"""How long it is waited for when it is to end."""
FAILED_S = 60.0
"""Where nothing could be kept, as on a full disk, it tries again after so long."""


class ListKeeper:
    """Works beside the doors, in a thread of its own, between `start` and `stop`."""

    def __init__(self, app: Flask) -> None:
        self._app, self._stopped = app, Event()
        self._asked = time.monotonic()
        app.before_request(self._note)
        self._thread = Thread(target=self._watch, daemon=True)

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def stop(self) -> None:
        """End; what is under way is left at its next step."""
        self._stopped.set()
        self._worker.stop()
        self._thread.join(STOPPING_S)

    @property
    def _worker(self) -> ListWorker:
        return cast(ListWorker, self._app.extensions["listed"])

    def _note(self) -> None:
        # A page that is only open asks for its beat: nobody waits for that one.
        if not request.path.endswith("/pulse"):
            self._asked = time.monotonic()

    def _watch(self) -> None:
        rest = self._begin()
        while not self._stopped.wait(rest):
            rest = self.look() if self.is_quiet() else EVERY_S

    def is_quiet(self) -> bool:
        """Whether nobody has asked for anything for a while."""
        return time.monotonic() - self._asked >= QUIET_S

    def _begin(self) -> float:
        """Another program than the last may manage what that one could not."""
        try:
            with closing(connect(self._app.config["DATABASE"])) as connection:
                records.try_again(connection)
        except (sqlite3.Error, DatabaseError) as trouble:
            log.warning("the list was not looked through: %s", trouble)
            return FAILED_S
        return EVERY_S

    def look(self) -> float:
        """Have a few jobs worked out; how long to rest then (s)."""
        try:
            with closing(connect(self._app.config["DATABASE"])) as connection:
                jobs = records.to_be_worked_out(connection, AHEAD)
        except (sqlite3.Error, DatabaseError) as trouble:
            log.warning("the list was not kept up: %s", trouble)
            return FAILED_S
        if not jobs:
            return EVERY_S
        return FAILED_S if self._worker.work(jobs, WORK_S) else REST_S
