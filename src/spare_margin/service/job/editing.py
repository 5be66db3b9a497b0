"""One element changed as typed; the repair declared done; undo and redo."""

import sqlite3
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass, replace
from typing import Any

from spare_margin.core.model.jobs import STAGES, Revision, Stage
from spare_margin.core.model.pieces import Craft
from spare_margin.service.errors import Conflict
from spare_margin.service.job.desk import Acted, Desk, Edited, Wanted
from spare_margin.service.job.revising import finished
from spare_margin.service.job.session import JobSession
from spare_margin.service.job.snapshot import JobSnapshot
from spare_margin.service.job.typed_edit import carried_over, edited
from spare_margin.store import revisions as revision_store

Given = Mapping[str, Any]
BUDGET_FIELDS = frozenset(
    ("pinned", "critical", "duty", "engine_space", "least", "bundle", "unsupported", "cable")
)
"""What a change of these says is how the run is to be judged, not what is to be repaired: it is always made
on every stage."""


@dataclass(frozen=True, slots=True)
class Stepped:
    """The change that was undone or redone, and the wiring before it, if it is still kept."""

    revision: Revision
    before: Craft | None


def edit_element(desk: Desk, wanted: Wanted, element: str, given: Given) -> Edited:
    """Change one element as typed; `given` are texts by the form's fields. JobError names the wrong one."""
    made = _made(desk, wanted, element, given)
    if made is None:
        return Edited(wanted.stage, (), wanted.revision)
    later = None
    if _correct(wanted, given):
        before = desk.session.head(made.stage).craft

        def later(craft: Craft) -> Acted:
            return Acted(carried_over(craft, before, made.craft))

    return Edited(made.stage, desk.keep(made, later), made.id)


def as_if_edited(
    desk: Desk, wanted: Wanted, element: str, given: Given
) -> tuple[JobSession, Stage]:
    """The job as it would be with an element changed as typed, of which nothing is kept; on which stage."""
    session, made = desk.session, _made(desk, wanted, element, given)
    if made is None:
        return session, wanted.stage
    heads = {**session.snapshot.heads, made.stage: made}
    return session.with_heads({s: heads[s] for s in STAGES if s in heads}, made), made.stage


def _made(desk: Desk, wanted: Wanted, element: str, given: Given) -> Revision | None:
    tables, correct = desk.session.tables, _correct(wanted, given)
    return desk.proposed(
        replace(wanted, correct=correct),
        lambda craft: Acted(edited(craft, element, given, tables)),
    ).revision


def _correct(wanted: Wanted, given: Given) -> bool:
    return wanted.correct or given.keys() <= BUDGET_FIELDS


def finish_repair(desk: Desk) -> None:
    """The plan (or, without one, the wiring as found) is the wiring as left; nothing where there is one."""
    made = finished(desk.snapshot)
    if made is not None:
        with suppress(Conflict):  # another device was first: it is finished either way
            desk.keep(made)


def stepped(
    connection: sqlite3.Connection, snapshot: JobSnapshot, stage: Stage, undo: bool
) -> Stepped | None:
    """Undo or redo the last change of the wiring on one stage; None where there is nothing to."""
    move = revision_store.step_back if undo else revision_store.step_forward
    moved = move(connection, snapshot.job.id, stage)
    if moved is None:
        return None
    revision = revision_store.revision(connection, snapshot.job.id, moved)
    assert revision is not None, "it was the head a moment ago"
    parent = revision.parent and revision_store.revision(
        connection, snapshot.job.id, revision.parent
    )
    return Stepped(revision, parent.craft if parent else None)
