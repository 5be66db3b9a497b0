"""Photographs of a job: added, written under, deleted and taken back; what each of them shows."""

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, replace

from spare_margin.core.circuit.runs import Run
from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import MeasuredStage, Reading
from spare_margin.core.model.photographs import MOST_PHOTOGRAPHS, Photograph, Subject, subjects
from spare_margin.core.model.values import DeviceId, Name, StepOrNone, Text
from spare_margin.exchange.pictures import for_paper, prepared
from spare_margin.exchange.reports.sheet import BesideEachOther, OnSheet
from spare_margin.service.errors import Conflict, NotThere
from spare_margin.service.job.revising import ACTING, earlier, now
from spare_margin.service.job.session import JobSession
from spare_margin.service.job.snapshot import JobSnapshot
from spare_margin.store import photographs as store
from spare_margin.store.file.database import transaction
from spare_margin.wording.records.photographs import subject_words

TAKEN_BACK_S = 24 * 3600.0
"""How long a deleted photograph is kept, so that deleting can be undone."""
KNOWN: dict[Subject, str] = {
    "point": "a point of the craft", "part": "a piece, a load or a source of the craft",
    "reading": "a reading of the job",
}  # fmt: skip
NO_PHOTOGRAPH = "There is no such photograph; it may have been deleted on another device."


@dataclass(frozen=True, slots=True, kw_only=True)
class Taken:
    """A photograph as a device sends it, beside its picture; the device makes the id."""

    id: DeviceId
    subject: Subject = "job"
    about: StepOrNone = ""
    stage: MeasuredStage = "as_found"
    note: Text = ""
    who: Name = ""
    waited_s: float = 0.0


def add_photograph(
    connection: sqlite3.Connection, snapshot: JobSnapshot, taken: Taken, raw: bytes
) -> Photograph:
    """Keep a photograph with its picture, the bytes of a file. Sent twice with the same id it is kept once.

    Raises:
        JobError: names the field that is wrong: what it is of, or a picture that is none.
        Conflict: the same id was sent before, and shows something else.
    """
    job = snapshot.job.id
    held = store.photographs(connection, job)
    kept = next((p for p in held if p.id == taken.id), None)
    if kept is not None:
        if (kept.subject, kept.about) != (taken.subject, taken.about):
            raise Conflict("A photograph of this id was kept already, and it is of something else.")
        return kept
    _check_subject(snapshot, taken)
    _check_room(connection, job)
    picture = prepared(raw)
    made = Photograph(
        id=taken.id, subject=taken.subject, about=taken.about, stage=taken.stage, note=taken.note,
        taken_at=earlier(taken.waited_s), who=taken.who or ACTING.get(), width_px=picture.width_px,
        height_px=picture.height_px,
    )  # fmt: skip
    with transaction(connection):
        _check_room(connection, job)
        store.let_go(connection, earlier(TAKEN_BACK_S))
        store.add_photographs(connection, job, [(made, picture.large, picture.small)])
    return made


def _check_room(connection: sqlite3.Connection, job: str) -> None:
    count = len(store.photographs(connection, job))
    if count >= MOST_PHOTOGRAPHS:
        raise JobError("picture", f"the job has {count} already", f"up to {MOST_PHOTOGRAPHS}")


def _check_subject(snapshot: JobSnapshot, taken: Taken) -> None:
    if (taken.subject == "job") == bool(taken.about):
        raise JobError("about", "does not go with what it is of", "an id, but for the job itself")
    if taken.subject not in KNOWN:
        return
    crafts = (r.craft for r in snapshot.revisions.values())
    if taken.about not in subjects(taken.subject, crafts, (r.id for r in snapshot.readings)):
        raise JobError("about", f"there is no {taken.about[:60]}", KNOWN[taken.subject])


def say_of(
    connection: sqlite3.Connection, job: str, photograph: str, note: str, on_sheet: bool
) -> Photograph:
    """Write under a photograph, tick it for the hand-over sheet or not. NotThere."""
    kept = _kept(connection, job, photograph)
    with transaction(connection):
        store.say_of(connection, job, photograph, note, on_sheet)
    return replace(kept, note=note, on_sheet=on_sheet)


def delete(connection: sqlite3.Connection, job: str, photograph: str) -> Photograph:
    """Delete a photograph; for a day it can be taken back. NotThere."""
    kept = _kept(connection, job, photograph)
    with transaction(connection):
        store.let_go(connection, earlier(TAKEN_BACK_S))
        store.set_deleted(connection, job, photograph, now())
    return kept


def take_back(connection: sqlite3.Connection, job: str, photograph: str) -> Photograph:
    """Take back a photograph that was deleted. NotThere where it is gone for good; JobError for no room."""
    deleted = next(
        (p for p in store.photographs(connection, job, deleted=True) if p.id == photograph), None
    )
    if deleted is None:
        return _kept(connection, job, photograph)
    with transaction(connection):
        _check_room(connection, job)
        store.set_deleted(connection, job, photograph, None)
    return deleted


def for_sheet(
    connection: sqlite3.Connection, session: JobSession, run_id: str
) -> tuple[BesideEachOther, ...]:
    """What goes on the hand-over sheet of a run: what was ticked of it and of the job as a whole."""
    snapshot = session.snapshot
    stages: tuple[MeasuredStage, ...] = ("as_left", "as_found")
    judgings = [session.judging(stage) for stage in stages]
    runs = [j.runs[run_id] for j in judgings if run_id in j.runs]
    readings = {r.id: r for r in snapshot.readings}
    crafts = [j.craft for j in judgings]
    # By what it is, not by what it is called: two pins may have one name.
    shown: dict[str, BesideEachOther] = {}
    for photograph in store.photographs(connection, snapshot.job.id):
        if not photograph.on_sheet or not any(_is_of(photograph, r, readings) for r in runs):
            continue
        large = store.picture(connection, snapshot.job.id, photograph.id, "large")
        if large is not None:
            key = photograph.part or f"{photograph.subject} {photograph.about}"
            words = subject_words(photograph, crafts, readings)
            each = shown.get(key, BesideEachOther(words, (), ()))
            more = (OnSheet(for_paper(large), photograph.note),)
            shown[key] = (
                replace(each, before=each.before + more)
                if photograph.stage == "as_found"
                else replace(each, after=each.after + more)
            )
    return tuple(shown.values())


def _is_of(photograph: Photograph, run: Run, readings: Mapping[str, Reading]) -> bool:
    """Whether a photograph shows something of a run, or the job as a whole."""
    parts = {run.load.id, run.source.id, *(s.piece.id for s in run.steps())}
    if photograph.part:
        return photograph.part in parts
    match photograph.subject:
        case "point":
            return photograph.about in run.points
        case "reading":
            read = readings.get(photograph.about)
            return read is not None and {read.red, read.black} <= run.points
        case _:
            return True


def _kept(connection: sqlite3.Connection, job: str, photograph: str) -> Photograph:
    kept = next((p for p in store.photographs(connection, job) if p.id == photograph), None)
    if kept is None:
        raise NotThere(NO_PHOTOGRAPH)
    return kept
