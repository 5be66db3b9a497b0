"""Recordings of meters: begun, looked at, told what is moved, stopped."""

from typing import cast

from flask import current_app

from spare_margin.core.errors import JobError
from spare_margin.service.errors import NotThere
from spare_margin.service.job.session import JobSession
from spare_margin.service.live.asking import Laid, wanted
from spare_margin.service.live.recorder import MOST_RECORDINGS, Recorder
from spare_margin.service.live.recording import Noted, Recording
from spare_margin.service.readings.taking import Typed
from spare_margin.web.common.area import area
from spare_margin.web.common.context import JobPath, open_job
from spare_margin.wording.craft.pieces import point_name
from spare_margin.wording.measured.recordings import (
    change_words,
    how_long,
    log_name,
    start_words,
    state_words,
)

from .models import (
    ChangeOut,
    Moved,
    Moving,
    RecordingForm,
    RecordingList,
    RecordingOut,
    RecordingPath,
)

recordings_api = area(
    "recordings", __name__, "/api/v1/jobs/<string:job>/recordings", "recordings of meters"
)


def recorder() -> Recorder:
    """What records for this application."""
    return cast(Recorder, current_app.extensions["recorder"])


@recordings_api.get("", responses={200: RecordingList})
def read_recordings(path: JobPath) -> dict[str, object]:
    """The recordings of a job since the program was started."""
    open_job(path.job)
    return RecordingList(
        recordings=[_out(each) for each in reversed(recorder().of(path.job))]
    ).model_dump()


@recordings_api.post("", responses={200: RecordingOut})
def begin_recording(path: JobPath, body: RecordingForm) -> dict[str, object]:
    """Begin to record. Sent twice with the same id it is begun once."""
    session = open_job(path.job)
    held = recorder()
    if held.find(path.job, body.id) is None and held.running() >= MOST_RECORDINGS:
        raise JobError("kind", f"{MOST_RECORDINGS} recordings go on already", "one fewer")
    laid = [Laid(each.meter, each.red, each.black) for each in body.meters]
    typed = Typed(
        id=body.id, stage=body.stage, scenario=body.scenario, red="", black="", typed="",
        states=body.states, contacts=body.contacts, charging=body.charging, who=body.who,
    )  # fmt: skip
    made = wanted(
        session, held.room, body.kind, laid, body.least_change, typed, _name(session, body, held)
    )
    return _out(held.begin(made, body.back_s)).model_dump()


@recordings_api.post("/<string:recording>/moving", responses={200: RecordingOut})
def say_moving(path: RecordingPath, body: Moving) -> dict[str, object]:
    """Say which piece is moved from now on: changes that come are put down to it."""
    found = _found(path)
    _check_piece(open_job(path.job), body.piece)
    found.say_moving(body.piece)
    return _out(found).model_dump()


@recordings_api.post("/<string:recording>/moved", responses={200: RecordingOut})
def say_moved(path: RecordingPath, body: Moved) -> dict[str, object]:
    """Say which piece was moved when a figure changed; it is kept as a reading then."""
    found = _found(path)
    _check_piece(open_job(path.job), body.piece)
    found.say_moved(body.change, body.piece)
    recorder().save()
    return _out(found).model_dump()


@recordings_api.post("/<string:recording>/stop", responses={200: RecordingOut})
def stop_recording(path: RecordingPath) -> dict[str, object]:
    """End a recording; its log stays in the job."""
    found = _found(path)
    found.stop()
    recorder().save()
    return _out(found).model_dump()


def _found(path: RecordingPath) -> Recording:
    found = recorder().find(path.job, path.recording)
    if found is None:
        raise NotThere("There is no such recording; its log may be among the meter logs.")
    return found


def _check_piece(session: JobSession, piece: str) -> None:
    pieces = {p.id for p in session.head(session.snapshot.latest).craft.pieces}
    if piece and piece not in pieces:
        raise JobError("piece", f"there is no {piece}", "a piece of the craft")


def _name(session: JobSession, body: RecordingForm, held: Recorder) -> str:
    """What the log is called: what it is, where the first meter's leads lie."""
    craft, first = session.head(session.snapshot.latest).craft, body.meters[0]
    points = {p.id for p in craft.points}
    laid = first.red in points and first.black in points
    where = f"{point_name(craft, first.red)} to {point_name(craft, first.black)}" if laid else ""
    meters = {m.id: m.name for m in held.room.connections()}
    return log_name(body.kind, meters.get(first.meter, ""), where)


def _out(held: Recording) -> RecordingOut:
    return RecordingOut(
        id=held.wanted.id,
        kind=held.wanted.kind,
        name=held.wanted.name,
        says=_says(held),
        is_over=held.is_over,
        changing=held.going_on is not None and not held.is_over,
        saved=held.is_saved,
        moving=held.moving,
        changes=[_change_out(held, i, each) for i, each in enumerate(held.changes)],
        more_changes=held.uncounted,
        wrong=held.wrong,
    )


def _says(held: Recording) -> str:
    if held.start is not None:
        return start_words(held.start, held.quantity, bool(held.start.shows(held.hold)))
    return state_words(
        held.wanted.kind, is_over=held.is_over, is_full=held.is_full, is_armed=held.is_armed,
        going_on=held.going_on is not None, changes=len(held.changes) + held.uncounted,
        watched_s=held.watched_s, heard=bool(held.started_at),
    )  # fmt: skip


def _change_out(held: Recording, number: int, noted: Noted) -> ChangeOut:
    change = noted.change
    return ChangeOut(
        number=number, at=how_long(held.window(change.start_s, change.end_s)[0]),
        says=change_words(change, held.quantity), moved=noted.moved,
        can_say=not noted.taken and not change.in_air and change.went_to is not None,
        taken=noted.taken,
    )  # fmt: skip
