"""Keeps the list of jobs worked out while nobody looks: what changed, or thousands just brought in."""

import logging
import sqlite3
import time
from threading import Event, Thread

from flask import Flask, request

from spare_margin.core.patience import allow
from spare_margin.service.records.listing import catch_up
from spare_margin.store.file.database import DatabaseError
from spare_margin.web.common.context import connection, open_job

log = logging.getLogger(__name__)
EVERY_S, QUIET_S = 2.0, 4.0
"""How often it looks, and how long nobody may have asked for anything: people come first."""
WORK_S, REST_S = 0.1, 0.2
"""It works a third of the time at most, so that who comes is answered."""
ONE_S = 20.0
"""How long one job may take to be worked out."""
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
        self._thread.join(STOPPING_S)

    def _note(self) -> None:
        # A page that is only open asks for its beat: nobody waits for that one.
        if not request.path.endswith("/pulse"):
            self._asked = time.monotonic()

    def _watch(self) -> None:
        rest = EVERY_S
        while not self._stopped.wait(rest):
            rest = self.look() if self.is_quiet() else EVERY_S

    def is_quiet(self) -> bool:
        """Whether nobody has asked for anything for a while."""
        return time.monotonic() - self._asked >= QUIET_S

    def look(self) -> float:
        """Work for a moment; how long to rest then (s)."""
        try:
            with self._app.app_context():
                allow(ONE_S, self._stopped.is_set)
                done, waiting = catch_up(connection(), open_job, WORK_S)
        except (sqlite3.Error, DatabaseError) as trouble:
            log.warning("the list was not kept up: %s", trouble)
            return FAILED_S
        except Exception:
            # Whatever is the matter with one job, the thread goes on: nobody else would start it again.
            log.exception("a job could not be worked out")
            return FAILED_S
        if not waiting:
            return EVERY_S
        return REST_S if done else FAILED_S
