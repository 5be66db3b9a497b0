"""Everything kept of one job, read in one moment."""

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass

from spare_margin.core.model.jobs import (
    Job,
    MeasuredStage,
    Moment,
    Reading,
    Revision,
    SignOff,
    Stage,
    Trial,
    WalkNote,
)
from spare_margin.core.model.pieces import Craft
from spare_margin.store import jobs as job_store
from spare_margin.store import moments as moment_store
from spare_margin.store import readings as reading_store
from spare_margin.store import revisions as revision_store
from spare_margin.store import sign_offs as sign_off_store
from spare_margin.store import walk_notes as note_store
from spare_margin.store.file.database import snapshot


@dataclass(frozen=True, slots=True)
class JobSnapshot:
    """A job as the store had it: heads by stage, readings, and every wiring they were taken on.

    `steps` says by stage whether undo and redo would do anything.
    """

    job: Job
    heads: Mapping[Stage, Revision]
    readings: tuple[Reading, ...]
    moments: tuple[Moment, ...]
    trials: tuple[Trial, ...]
    notes: tuple[WalkNote, ...]
    sign_offs: tuple[SignOff, ...]
    revisions: Mapping[str, Revision]
    steps: Mapping[Stage, tuple[bool, bool]]

    @property
    def latest(self) -> Stage:
        """The furthest stage the job has come to."""
        return list(self.heads)[-1]

    @property
    def measured_stages(self) -> list[MeasuredStage]:
        """The stages that a reading may be of, the one that the job is at first."""
        return ["as_left", "as_found"] if "as_left" in self.heads else ["as_found", "as_left"]

    def readings_of(self, stage: Stage) -> list[Reading]:
        """All readings taken on any revision of a stage."""
        return [r for r in self.readings if self.revisions[r.revision].stage == stage]

    def trials_of(self, stage: Stage) -> list[Trial]:
        """All trials made on any revision of a stage."""
        first: Stage = "as_found"
        stages = {key: r.stage for key, r in self.revisions.items()}
        return [t for t in self.trials if stages.get(t.revision, first) == stage]


def job_snapshot(
    connection: sqlite3.Connection, job_id: str, known: Mapping[str, Craft]
) -> JobSnapshot | None:
    """Everything kept of one job; None if there is none of this id.

    `known` are wirings by revision id that were read before: a revision never changes.
    """
    with snapshot(connection):
        job = job_store.job(connection, job_id)
        if job is None:
            return None
        kept = revision_store.all_revisions(connection, job_id, known)
        heads = revision_store.heads(connection, job_id)
        readings = tuple(reading_store.readings(connection, job_id))
        moments = tuple(moment_store.moments(connection, job_id))
        trials = tuple(moment_store.trials(connection, job_id))
        notes = tuple(note_store.notes(connection, job_id))
        sign_offs = tuple(sign_off_store.sign_offs(connection, job_id))
        steps = {stage: revision_store.can_step(connection, job_id, stage) for stage in heads}
    revisions = {r.id: r for r in kept}
    return JobSnapshot(
        job, {stage: revisions[at] for stage, at in heads.items()}, readings, moments, trials, notes,
        sign_offs, revisions, steps,
    )  # fmt: skip
