"""Undo and redo: what is taken back or made again, with the wiring it was made from."""

import sqlite3
from dataclasses import dataclass

from spare_margin.core.model.jobs import Revision, Stage
from spare_margin.core.model.pieces import Craft
from spare_margin.service.job.snapshot import JobSnapshot
from spare_margin.store import revisions as revision_store


@dataclass(frozen=True, slots=True)
class Stepped:
    """The change that was undone or redone, and the wiring before it, if it is still kept."""

    revision: Revision
    before: Craft | None


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
