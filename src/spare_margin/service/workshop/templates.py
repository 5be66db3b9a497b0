"""Templates: a craft saved under a name, and jobs that begin from one."""

import sqlite3
from dataclasses import replace

from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import Job, Revision, Stage
from spare_margin.data.tables import OwnRows
from spare_margin.exchange.job_file.job_file import JobFileErrors, ReadJob, read_job
from spare_margin.exchange.job_file.writing import file_text, write_job
from spare_margin.service.drawing.new_jobs import keep_new
from spare_margin.service.drawing.words import title_of
from spare_margin.service.errors import NotThere
from spare_margin.service.job.revising import new_id, now
from spare_margin.service.job.session import JobSession
from spare_margin.store import templates as store
from spare_margin.store.templates import Template

MOST_TEMPLATES = 200


def save_template(
    connection: sqlite3.Connection, session: JobSession, stage: Stage, name: str
) -> Template:
    """Save the wiring of a stage, and the limits of its job, under a name; one of that name gives way.

    Nothing of the customer, the complaint or any reading goes with it. JobError names the field.
    """
    called = title_of(name)
    held = store.templates(connection)
    if len(held) >= MOST_TEMPLATES and called not in {each.name for each in held}:
        raise JobError(
            "name", f"there are {MOST_TEMPLATES} templates already", "take one out first"
        )
    heads = session.snapshot.heads
    if stage not in heads:
        raise JobError("stage", "nothing stands there yet", ", ".join(heads))
    head = heads[stage]
    craft = replace(head.craft, pieces=tuple(replace(p, repair=None) for p in head.craft.pieces))
    job = Job(
        id="", title=called, limit_set=session.job.limit_set, own_limits=session.job.own_limits
    )
    first = Revision(
        id="drawn", stage="as_found", parent=None, made_at=now(), craft=craft, action="drawn"
    )
    made = Template(new_id(), called, now(), file_text(write_job(ReadJob(job, (first,), ()))))
    store.keep_template(connection, made)
    return made


def begin_from(
    connection: sqlite3.Connection, template_id: str, job: Job, own_rows: OwnRows
) -> str:
    """A job that begins with a template's craft and limits; its id. NotThere where there is none."""
    held = store.template(connection, template_id)
    if held is None:
        raise NotThere("There is no such template; it may have been taken out.")
    try:
        read = read_job(held.document.encode("utf-8"), own_rows)
    except JobFileErrors as wrong:
        raise JobError("template", wrong.errors[0].problem, wrong.errors[0].accepted) from None
    made = replace(
        job,
        title=title_of(job.title),
        limit_set=read.job.limit_set,
        own_limits=read.job.own_limits,
    )
    return keep_new(connection, made, read.craft, "copied")


def bring_template(connection: sqlite3.Connection, text: str, own_rows: OwnRows) -> Template:
    """A template from the text of its file. JobFileErrors for what is none."""
    read = read_job(text.encode("utf-8"), own_rows)
    made = Template(new_id(), title_of(read.job.title), now(), text)
    store.keep_template(connection, made)
    return made
