"""How a changed wiring is kept: on which stage, and carried over to which later ones."""

import sqlite3
import uuid
from collections.abc import Iterable
from contextvars import ContextVar
from dataclasses import replace
from datetime import UTC, datetime, timedelta

from spare_margin.core.edit.ids import ids_of
from spare_margin.core.model.jobs import Revision
from spare_margin.service.errors import MOVED_ON, Conflict
from spare_margin.service.job.snapshot import JobSnapshot
from spare_margin.store import revisions as revision_store

ACTING: ContextVar[str] = ContextVar("ACTING", default="")
"""Who works on the device that asks; empty where nobody said."""


def new_id() -> str:
    """An id that survives export and import."""
    return uuid.uuid4().hex


def now() -> str:
    """This moment in UTC, ISO 8601."""
    return earlier(0.0)


def earlier(seconds: float) -> str:
    """So many seconds ago in UTC, ISO 8601."""
    moment = datetime.now(UTC) - timedelta(seconds=seconds)
    return moment.isoformat(timespec="milliseconds").replace("+00:00", "Z")


def keep_within(
    connection: sqlite3.Connection, snapshot: JobSnapshot, kept: Iterable[Revision]
) -> None:
    """Keep revisions inside a transaction. Conflict where what they were made from is no head."""
    own = [replace(r, who=r.who or ACTING.get()) for r in kept]
    if not revision_store.change(connection, snapshot.job.id, own):
        raise Conflict(MOVED_ON)


def finished(snapshot: JobSnapshot) -> Revision | None:
    """The revision that makes the plan the wiring as left; None where there is one already."""
    if "as_left" in snapshot.heads:
        return None
    base = snapshot.heads.get("planned") or snapshot.heads["as_found"]
    return Revision(
        id=new_id(), stage="as_left", parent=base.id, made_at=now(), craft=base.craft,
        action="finished",
    )  # fmt: skip


def taken_ids(snapshot: JobSnapshot) -> frozenset[str]:
    """Every id that any wiring of the job has: what is new gets another, the same on each stage."""
    return frozenset(i for r in snapshot.revisions.values() for i in ids_of(r.craft))
