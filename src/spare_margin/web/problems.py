"""Errors as RFC 9457 problem details, naming the field, the trouble and what is accepted."""

import logging
import sqlite3
from typing import Any

from flask import Response, current_app, json, request
from pydantic import ValidationError
from werkzeug.exceptions import HTTPException, MethodNotAllowed

from spare_margin.core.errors import JobError, NoSolution
from spare_margin.core.patience import TooLong
from spare_margin.exchange.job_file.job_file import JobFileErrors
from spare_margin.exchange.job_file.plain_words import plain_words
from spare_margin.service.errors import Conflict, NotThere
from spare_margin.store.file.database import Closed, DatabaseError, closed_to_us
from spare_margin.web.common.models import Problem, WrongField
from spare_margin.wording.craft.sheets import stalled_words

log = logging.getLogger(__name__)


def problem(
    status: int, title: str, detail: str, errors: list[WrongField] | None = None
) -> Response:
    """One problem as a response."""
    body = Problem(
        type="about:blank", title=title, status=status, detail=detail, errors=errors or []
    )
    return Response(
        json.dumps(body.model_dump()), status=status, content_type="application/problem+json"
    )


def wrong_field(error: JobError) -> WrongField:
    """A JobError as one wrong field."""
    return WrongField(field=error.path, problem=error.problem, accepted=error.accepted)


def from_job_error(error: JobError) -> Response:
    """A refused value."""
    return problem(422, "Not accepted", error.sentence(), [wrong_field(error)])


def from_file_errors(errors: JobFileErrors) -> Response:
    """A refused job file."""
    return problem(
        422, "This file cannot be taken", str(errors), [wrong_field(e) for e in errors.errors]
    )


def from_validation(invalid: ValidationError) -> Response:
    """A request that does not fit its model."""
    fields = []
    for error in invalid.errors(include_url=False):
        trouble, accepted = plain_words(error)
        fields.append(
            WrongField(field=".".join(map(str, error["loc"])), problem=trouble, accepted=accepted)
        )
    first = fields[0]
    return problem(422, "Not accepted", f"{first.field}: {first.problem}", fields)


def from_http(error: HTTPException) -> Response:
    """What the framework refuses."""
    status = error.code or 500
    if status == 413:
        return too_large(request.max_content_length or 0)
    titles = {
        404: ("Not found", "There is nothing at this address."),
        405: ("Not possible here", "This address does not take that kind of request."),
        400: ("Not readable", "The request could not be read as JSON."),
        415: ("Not JSON", "Send JSON, with the content type application/json."),
    }
    title, detail = titles.get(status, (error.name, error.description or error.name))
    answer = problem(status, title, detail)
    if isinstance(error, MethodNotAllowed) and error.valid_methods:
        answer.headers["Allow"] = ", ".join(sorted(error.valid_methods))
    return answer


def too_large(most: int) -> Response:
    """A body of more bytes than are read at all."""
    large = f"{most // 1_000_000} MB" if most >= 1_000_000 else f"{most // 1000} kB"
    detail = f"That is too large; up to {large} may be sent here."
    return problem(413, "Too large", detail)


def too_deep() -> Response:
    """Lists within lists without end."""
    return problem(400, "Not readable", "The request is nested too deeply to be read.")


def from_no_solution(trouble: NoSolution) -> Response:
    """What was asked has no answer, for no voltage feeds a load of it."""
    return problem(422, "No solution", stalled_words(trouble))


def too_slow() -> Response:
    """A body that stopped in the middle."""
    return problem(408, "Too slow", "The rest of the request did not come; nothing was changed.")


STORE_TROUBLES = {
    sqlite3.SQLITE_FULL: (507, "The disk is full", "Make room on the disk, then try again."),
    sqlite3.SQLITE_READONLY: (503, "The jobs can only be read", "Their file may not be written."),
    sqlite3.SQLITE_CANTOPEN: (503, "The jobs are not there", "Their file was moved or deleted."),
    sqlite3.SQLITE_IOERR: (503, "The disk does not answer", "Look after the disk first."),
    sqlite3.SQLITE_CORRUPT: (503, "The jobs are damaged", "Stop the program and restore a backup."),
    sqlite3.SQLITE_NOTADB: (503, "The jobs are damaged", "Stop the program and restore a backup."),
    sqlite3.SQLITE_BUSY: (503, "The jobs are busy", "Another program holds them. Try again soon."),
}
"""What may be the matter with the database, by SQLite's own code: status, what it is, what to do."""


CLOSED: dict[Closed, str] = {
    "database": "Their file may not be written.",
    "log": "A file beside theirs, which ends in -wal or -shm, may not be written.",
    "folder": "The folder they are in may not be written.",
}
"""What of the database may not be written, by what `closed_to_us` found."""


def from_store(trouble: sqlite3.Error | DatabaseError) -> Response:
    """The database cannot be read or written: said in words, and nothing was kept."""
    code = getattr(trouble, "sqlite_errorcode", None) or getattr(trouble, "code", None)
    # The low byte is the kind of trouble, the rest of it which.
    told = STORE_TROUBLES.get((code or 0) & 0xFF)
    if told is None:
        return unexpected(trouble)
    log.error("%s: %s", told[1], trouble)
    status, title, do = told
    closed = closed_to_us(current_app.config["DATABASE"])
    if closed is not None and status != 507:
        status, title, do = STORE_TROUBLES[sqlite3.SQLITE_READONLY]
        do = CLOSED[closed]
    answer = problem(status, title, f"{title}: nothing was changed. {do}")
    if status == 503:
        answer.headers["Retry-After"] = "5"
    return answer


def from_too_long(_: TooLong) -> Response:
    """What would take too long to work out is left, so that others get their turn."""
    return problem(
        503, "Too much at once",
        "The calculation took too long and was stopped. Nothing saved is lost. A run with fewer "
        "pieces is quicker.",
    )  # fmt: skip


def unexpected(error: Exception) -> Response:
    """Anything else: the trace goes to the log, a sentence to the person."""
    log.error("unexpected error", exc_info=error)
    return problem(
        500, "Something went wrong", "The program made a mistake; nothing you typed was changed."
    )


def register(app: Any) -> None:
    """Answer every error of this application in one shape."""
    app.register_error_handler(JobError, from_job_error)
    app.register_error_handler(RecursionError, lambda _: too_deep())
    app.register_error_handler(NoSolution, from_no_solution)
    app.register_error_handler(TooLong, from_too_long)
    app.register_error_handler(JobFileErrors, from_file_errors)
    app.register_error_handler(ValidationError, from_validation)
    app.register_error_handler(HTTPException, from_http)
    app.register_error_handler(sqlite3.Error, from_store)
    app.register_error_handler(DatabaseError, from_store)
    app.register_error_handler(Conflict, lambda e: problem(409, "The job moved on", str(e)))
    app.register_error_handler(NotThere, lambda e: problem(404, "Not found", str(e)))
    app.register_error_handler(Exception, unexpected)
