"""What is said on a walk that is no reading: cautions taken note of, steps skipped, what was seen."""

import sqlite3
from dataclasses import replace

from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import WalkNote
from spare_margin.service.errors import Conflict
from spare_margin.service.job.snapshot import JobSnapshot
from spare_margin.store import walk_notes
from spare_margin.store.file.database import transaction


def take_note(connection: sqlite3.Connection, snapshot: JobSnapshot, made: WalkNote) -> None:
    """Keep a note. Sent twice with the same id it is kept once.

    Raises:
        JobError: names the field that is wrong.
        Conflict: the same id was sent before with another content.
    """
    loads = {x.id for r in snapshot.revisions.values() for x in r.craft.loads}
    if made.run not in loads:
        raise JobError("run", f"there is no run {made.run[:60]}", "a run of the job")
    if not made.step.strip():
        raise JobError("step", "is empty", "a measurement of the walk, or a caution")
    if made.state == "seen" and not made.reason.strip():
        raise JobError("reason", "is empty", "what was seen or heard, as: hums, does not turn")
    if made.state == "skipped" and not made.reason.strip():
        raise JobError("reason", "is empty", "why it is skipped, as: cannot reach")
    kept = next((n for n in snapshot.notes if n.id == made.id), None)
    if kept is None:
        with transaction(connection):
            walk_notes.add_notes(connection, snapshot.job.id, [made])
    elif replace(kept, made_at=made.made_at) != made:
        raise Conflict("A note of this id was kept already, and it says something else.")
