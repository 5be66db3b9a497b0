"""Job files in and out of the store: whole, or not at all.

A file says which job it is. Where that job is here already, what it would add is told, and a person
chooses: leave it, keep the file as a job of its own, or add to the job here what only the file has.
"""

import sqlite3
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from typing import IO, Any, Literal

from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import Revision
from spare_margin.core.model.photographs import MOST_PHOTOGRAPHS, Photograph
from spare_margin.data.tables import OwnRows, tables_with
from spare_margin.exchange.job_file.container import Container, write_container
from spare_margin.exchange.job_file.job_file import (
    NOT_SAID_WHEN,
    JobFileErrors,
    ReadJob,
    judge,
    read_job,
)
from spare_margin.exchange.job_file.own_rows import merged, rows_used
from spare_margin.exchange.job_file.writing import file_text, write_job
from spare_margin.service.errors import MOVED_ON, Conflict
from spare_margin.service.job.revising import new_id, now
from spare_margin.service.job.snapshot import JobSnapshot, job_snapshot
from spare_margin.service.workshop.brought_rows import settled
from spare_margin.store import jobs as job_store
from spare_margin.store import meter_logs as log_store
from spare_margin.store import moments as moment_store
from spare_margin.store import photographs as photograph_store
from spare_margin.store import readings as reading_store
from spare_margin.store import revisions as revision_store
from spare_margin.store import sign_offs as sign_off_store
from spare_margin.store import walk_notes as note_store
from spare_margin.store.file.database import snapshot as one_moment
from spare_margin.store.file.database import transaction
from spare_margin.store.workshop import put_rows

How = Literal["copy", "merge"]
Relation = Literal["same", "newer", "older", "different"]
"""How a file stands to the job here: newer where it has all that is here and more, older the other way."""
LISTS = ("revisions", "readings", "moments", "trials", "notes", "sign_offs", "logs", "photographs")
FILE_KEYS = {"notes": "walk_notes", "logs": "meter_logs"}


@dataclass(frozen=True, slots=True)
class Known:
    """The job here that a file is of: how the file stands to it, and what only the file has, by list."""

    job: str
    title: str
    relation: Relation
    adds: dict[str, int]


def bring_in(
    connection: sqlite3.Connection, file: Container, own_rows: OwnRows, how: How = "copy"
) -> str:
    """Keep a job file; the id of its job.

    A job that is not here keeps its id. One that is here becomes another job, or with `merge` takes what
    only the file has. JobFileErrors where anything keeps it from being taken.
    """
    read = settled(read_job(file.text, own_rows), own_rows)
    file.check(read)
    errors, _ = judge(read, tables_with(merged(own_rows, read.rows)))
    if errors:
        raise JobFileErrors(errors)
    held = kept(connection, read.job.id, own_rows)
    if held is not None and how == "merge":
        _merge(connection, held, read, file)
        return held.job.id
    moment = now()
    revisions = [
        replace(r, made_at=moment) if r.made_at == NOT_SAID_WHEN else r for r in read.revisions
    ]
    job_id = read.job.id if read.job.id and held is None else new_id()
    job_store.add_job(
        connection, replace(read.job, id=job_id), revisions, read.readings, moment,
        notes=read.notes, moments=read.moments, trials=read.trials, heads=read.heads, rows=read.rows,
        sign_offs=read.sign_offs, logs=read.logs, photographs=_with_pictures(file, read, read.photographs),
    )  # fmt: skip
    return job_id


def taken_out(connection: sqlite3.Connection, snapshot: JobSnapshot, own_rows: OwnRows) -> ReadJob:
    """A job with everything kept of it, its undone and redone changes too."""
    job = snapshot.job
    with one_moment(connection):
        revisions = tuple(revision_store.whole_history(connection, job.id))
        heads = revision_store.heads_and_tips(connection, job.id)
        logs = tuple(log_store.logs(connection, job.id))
        photographs = tuple(photograph_store.photographs(connection, job.id))
    rows = rows_used(own_rows, [r.craft for r in revisions], job.limit_set)
    return ReadJob(
        job, revisions, snapshot.readings, snapshot.notes, snapshot.moments, snapshot.trials, heads,
        rows, snapshot.sign_offs, logs, photographs,
    )  # fmt: skip


def ending(read: ReadJob) -> str:
    """How the name of a job's file ends: with photographs it is a zip."""
    return ".zip" if read.photographs else ".json"


def write_file(connection: sqlite3.Connection, read: ReadJob, out: IO[bytes]) -> None:
    """Write a job of the store as a file, with the pictures of its photographs."""
    text = file_text(write_job(read))
    if not read.photographs:
        out.write(text.encode())
        return
    pictures = (
        (p.id, photograph_store.picture(connection, read.job.id, p.id, "large") or b"")
        for p in read.photographs
    )
    write_container(out, text, pictures)


def kept(connection: sqlite3.Connection, job_id: str, own_rows: OwnRows) -> ReadJob | None:
    """A job as it is kept here, all of it; None where there is none of this id."""
    found = job_snapshot(connection, job_id, {}) if job_id else None
    return None if found is None else taken_out(connection, found, own_rows)


def known(connection: sqlite3.Connection, read: ReadJob, own_rows: OwnRows) -> Known | None:
    """The job here that a file is of, and how the file stands to it; None where it is not here."""
    held = kept(connection, read.job.id, own_rows)
    if held is None:
        return None
    adds = {name: len(_only(getattr(read, name), getattr(held, name))) for name in LISTS}
    adds = {name: count for name, count in adds.items() if count}
    return Known(held.job.id, held.job.title, _relation(held, read), adds)


def _relation(held: ReadJob, read: ReadJob) -> Relation:
    # Rows of the tables travel along, but are no part of the job.
    if write_job(replace(held, rows={})) == write_job(replace(read, rows={})):
        return "same"
    if any(_clashes(getattr(held, name), getattr(read, name)) for name in LISTS):
        return "different"
    theirs = any(_only(getattr(read, name), getattr(held, name)) for name in LISTS)
    ours = any(_only(getattr(held, name), getattr(read, name)) for name in LISTS)
    if theirs != ours:
        return "newer" if theirs else "older"
    return "different"


def _only(these: Iterable[Any], those: Iterable[Any]) -> list[Any]:
    """What is in one list and has an id that the other lacks."""
    ids = {each.id for each in those}
    return [each for each in these if each.id not in ids]


def _clashes(held: Iterable[Any], read: Iterable[Any]) -> list[int]:
    """Places in the file of what is here too by its id, and says something else."""
    here = {each.id: _said(each) for each in held}
    return [i for i, each in enumerate(read) if each.id in here and here[each.id] != _said(each)]


def _said(each: Any) -> Any:
    """What something says for good.

    Of a revision not what it came from, for steps between are let go in time; of a photograph not what may
    be written under it.
    """
    if isinstance(each, Photograph):
        return replace(each, note="", on_sheet=False)
    return replace(each, parent=None, folded=0) if isinstance(each, Revision) else each


def _with_pictures(
    file: Container, read: ReadJob, wanted: Iterable[Photograph]
) -> Iterator[tuple[Photograph, bytes, bytes]]:
    """Photographs with their pictures, one after the other: they are not held together."""
    places = {p.id: i for i, p in enumerate(read.photographs)}
    for photograph in wanted:
        picture = file.picture(read, places[photograph.id])
        sized = replace(photograph, width_px=picture.width_px, height_px=picture.height_px)
        yield sized, picture.large, picture.small


def _merge(connection: sqlite3.Connection, held: ReadJob, read: ReadJob, file: Container) -> None:
    """Add to a job what only the file has, all of it or nothing.

    Where the file has all that is here, the job then stands where the file does; else as it stood.
    """
    errors = []
    for name in LISTS:
        for i in _clashes(getattr(held, name), getattr(read, name)):
            at = f"{FILE_KEYS.get(name, name)}[{i}].id"
            if name == "revisions":
                at = f"revisions[{i - 1}].id" if i else "revision"
            each = getattr(read, name)[i].id
            problem = f"{each} is here too, and says something else"
            errors.append(JobError(at, problem, "the same; or keep the file as a copy"))
    more = _only(read.photographs, held.photographs)
    if len(held.photographs) + len(more) > MOST_PHOTOGRAPHS:
        problem = f"would be {len(held.photographs) + len(more)} with those here"
        errors.append(JobError("photographs", problem, f"up to {MOST_PHOTOGRAPHS}"))
    if errors:
        raise JobFileErrors(errors)
    job = held.job.id
    heads = read.heads if _relation(held, read) == "newer" and read.heads else held.heads
    with transaction(connection):
        if revision_store.heads_and_tips(connection, job) != held.heads:
            raise Conflict(MOVED_ON)
        for revision in job_store.parents_first(_only(read.revisions, held.revisions)):
            revision_store.add_revision(connection, job, revision)
        revision_store.put_heads(connection, job, heads)
        moment_store.add_moments(connection, job, _only(read.moments, held.moments))
        moment_store.add_trials(connection, job, _only(read.trials, held.trials))
        reading_store.add_readings(connection, job, _only(read.readings, held.readings))
        note_store.add_notes(connection, job, _only(read.notes, held.notes))
        sign_off_store.add_sign_offs(connection, job, _only(read.sign_offs, held.sign_offs))
        log_store.add_logs(connection, job, _only(read.logs, held.logs))
        photograph_store.add_photographs(connection, job, _with_pictures(file, read, more))
        for table, brought in read.rows.items():
            put_rows(connection, table, brought)
