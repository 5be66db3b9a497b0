"""The run sheet: read it, change the wiring, undo, finish the repair; take readings."""

from contextlib import suppress

from flask import Response, request

from spare_margin.core.errors import JobError, SpareMarginError
from spare_margin.core.patience import allow, never
from spare_margin.service.job.desk import Wanted
from spare_margin.service.job.editing import as_if_edited, edit_element, finish_repair, stepped
from spare_margin.service.readings.taking import doubted, take
from spare_margin.web.common.area import area
from spare_margin.web.common.context import (
    GIVEN_UP,
    JobPath,
    caches,
    connection,
    open_desk,
    open_job,
)
from spare_margin.web.common.models import SheetQuery
from spare_margin.web.sheet.models import Sheet
from spare_margin.web.sheet.requests import (
    Change,
    Finish,
    KeptReading,
    NewReading,
    Undone,
    UndoRedo,
)
from spare_margin.wording.craft.changes import revision_words
from spare_margin.wording.measured.readings import reading_words

from .view import SheetMaker

SHOWN_S = 5.0
"""How long the sheet may take that is shown with a reading that was kept."""
sheet_api = area("sheet", __name__, "/api/v1/jobs/<string:job>", "run sheet")


def _sheet(job: str, query: SheetQuery) -> Sheet:
    return SheetMaker(open_job(job)).sheet(query)


def _answer(shown: Sheet) -> Response:
    """A sheet as JSON, written straight from the model: it answers every keystroke."""
    return Response(shown.model_dump_json(), content_type="application/json")


@sheet_api.get("/sheet", responses={200: Sheet})
def sheet(path: JobPath, query: SheetQuery) -> Response:
    """The sheet of one run."""
    return _answer(_sheet(path.job, query))


@sheet_api.post("/changes", responses={200: Sheet})
def change(path: JobPath, body: Change) -> Response:
    """Change one element; the sheet as it is then. See Change for which stage that makes."""
    desk, wanted = open_desk(path.job), Wanted(body.stage, body.revision, body.correct)
    given = body.edit.model_dump(exclude_none=True)
    if not body.keep:
        session, stage = as_if_edited(desk, wanted, body.element, given)
        view = body.view.model_copy(update={"stage": stage})
        return _answer(SheetMaker(session, explained=body.element).sheet(view))
    made = edit_element(desk, wanted, body.element, given)
    view = body.view.model_copy(update={"stage": made.stage} if made.stages else {})
    return _answer(_sheet(path.job, view))


@sheet_api.post("/steps", responses={200: Undone})
def step(path: JobPath, body: UndoRedo) -> dict[str, object]:
    """Undo or redo the last change of the wiring on one stage."""
    before = open_job(path.job)
    moved = stepped(connection(), before.snapshot, body.stage, body.direction == "undo")
    if moved is None:
        raise JobError("direction", f"there is nothing to {body.direction}")
    session = open_job(path.job)
    snapshot = session.snapshot
    # What was undone away and comes back is a later stage's: that is what has changed, and is shown.
    changed = (moved.revision.stage, body.stage)
    stage = next((s for s in changed if s in snapshot.heads), snapshot.latest)
    loads = {load.id for load in snapshot.heads[stage].craft.loads}
    run = body.view.run if body.view.run in loads else None
    view = body.view.model_copy(update={"stage": stage, "run": run})
    shown = SheetMaker(session).sheet(view) if loads else None
    word = "Undone" if body.direction == "undo" else "Redone"
    said = f"{word}: {revision_words(moved.revision, moved.before)}"
    return Undone(said=said, stage=stage, sheet=shown).model_dump()


@sheet_api.post("/as-left", responses={200: Sheet})
def finish(path: JobPath, body: Finish) -> dict[str, object]:
    """The repair is done: the plan (or, without one, the wiring as found) is the wiring as left."""
    finish_repair(open_desk(path.job))
    return _sheet(path.job, body.view.model_copy(update={"stage": "as_left"})).model_dump()


@sheet_api.post("/readings", responses={200: KeptReading})
def take_reading(path: JobPath, body: NewReading) -> dict[str, object]:
    """Keep a reading. Sent twice with the same id it is kept once; with other content it is refused."""
    session = open_job(path.job)
    typed, meter = doubted(session, body.record())
    kept = take(connection(), caches(), session.snapshot, typed, meter)
    # What was kept is said, whatever becomes of the page about it: that one can be asked for again.
    shown = None
    if typed.view is not None:
        allow(SHOWN_S, request.environ.get(GIVEN_UP, never))
        with suppress(SpareMarginError):
            shown = _sheet(path.job, typed.view)
    return KeptReading(id=kept.id, understood=reading_words(kept), sheet=shown).model_dump()
