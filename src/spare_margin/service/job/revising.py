"""How a changed wiring is kept: on which stage, and carried over to which later ones."""

import sqlite3
import uuid
from collections.abc import Callable, Iterable
from contextvars import ContextVar
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta

from spare_margin.core.circuit.extent import too_large
from spare_margin.core.circuit.runs import hang_alike
from spare_margin.core.edit.ids import ids_of
from spare_margin.core.edit.stages import stage_for
from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import STAGES, Action, Revision, Stage
from spare_margin.core.model.pieces import Craft
from spare_margin.service.errors import MOVED_ON, Conflict
from spare_margin.service.job.caches import Caches
from spare_margin.service.job.snapshot import JobSnapshot
from spare_margin.store import revisions as revision_store
from spare_margin.store.file.database import transaction

Act = Callable[[Craft], Craft]
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


@dataclass(frozen=True, slots=True)
class Wanted:
    """A change of the wiring: on the stage and revision that were on screen.

    With `correct`, the drawing as found was wrong: the change is made there and on every later stage.
    Otherwise, once something was measured as found, a change there becomes part of the plan.
    """

    stage: Stage
    revision: str
    correct: bool = False


def revised(
    snapshot: JobSnapshot, wanted: Wanted, act: Act, action: Action = "changed"
) -> Revision | None:
    """The revision that a change makes, not kept yet; None where it changes nothing.

    Raises Conflict where the job moved on since, and what `act` raises.
    """
    head = snapshot.heads.get(wanted.stage)
    if head is None or head.id != wanted.revision:
        raise Conflict(MOVED_ON)
    measured = bool(snapshot.readings_of("as_found"))
    stage = stage_for(wanted.stage, measured, wanted.correct)
    base = snapshot.heads.get(stage, head)
    craft = act(base.craft)
    if craft == base.craft:
        return None
    # What hangs together as before has as many pieces in every run as before.
    if hang_alike(base.craft, craft):
        craft.hangs_as(base.craft)
    elif (large := too_large(craft)) is not None:
        raise large
    return Revision(
        id=new_id(), stage=stage, parent=base.id, made_at=now(), craft=craft, action=action
    )


def keep(
    connection: sqlite3.Connection,
    caches: Caches,
    snapshot: JobSnapshot,
    made: Revision,
    later: Act | None = None,
) -> list[Stage]:
    """Keep a revision; `later` says what it does to each later stage there is, all or nothing.

    The stages that have a new revision now, so that all of them can be undone.

    Raises Conflict where the job moved on since; JobError where a later stage cannot take it.
    """
    kept = [made]
    if later is not None:
        for stage, head in snapshot.heads.items():
            if STAGES.index(stage) > STAGES.index(made.stage):
                kept += _carried(stage, head, later)
    with transaction(connection):
        keep_within(connection, snapshot, kept)
    caches.learn(snapshot.job.id, kept)
    return [revision.stage for revision in kept]


def keep_within(
    connection: sqlite3.Connection, snapshot: JobSnapshot, kept: Iterable[Revision]
) -> None:
    """Keep revisions inside a transaction. Conflict where what they were made from is no head."""
    own = [replace(r, who=r.who or ACTING.get()) for r in kept]
    known = {key: revision.craft for key, revision in snapshot.revisions.items()}
    if not revision_store.change(connection, snapshot.job.id, own, known):
        raise Conflict(MOVED_ON)


def _carried(stage: Stage, head: Revision, later: Act) -> list[Revision]:
    try:
        craft = later(head.craft)
    except JobError as wrong:
        word = "the plan" if stage == "planned" else "the wiring as left"
        raise JobError(
            wrong.path, f"{word} cannot take this correction: {wrong.problem}", wrong.accepted
        ) from None
    if craft == head.craft:
        return []
    return [
        Revision(
            id=new_id(), stage=stage, parent=head.id, made_at=now(), craft=craft, action="corrected"
        )
    ]


def everywhere(
    connection: sqlite3.Connection, caches: Caches, snapshot: JobSnapshot, act: Act, action: Action
) -> list[Stage]:
    """Make a change that is true of the craft itself on every stage there is; the stages changed."""
    first = next(iter(snapshot.heads))
    wanted = Wanted(first, snapshot.heads[first].id, correct=True)
    made = revised(snapshot, wanted, act, action)
    return [] if made is None else keep(connection, caches, snapshot, made, act)


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
