"""The run sheet: read it, change the wiring, undo, finish the repair."""

from flask import Response
from flask_openapi3.blueprint import APIBlueprint
from flask_openapi3.models.tag import Tag

from spare_margin.core.errors import JobError
from spare_margin.core.jobs import STAGES, Revision
from spare_margin.store import revisions as revision_store

from .bench import JobState
from .connection import connection, new_id, now
from .edits import carried_over, edited
from .jobs_api import JobPath
from .models import Change, Finish, Problem, Sheet, SheetQuery, Step, Stepped
from .opened import job_or_404, maker_of, sheet_of
from .wiring import Wanted, keep, revised
from .workshop import tables

sheet_api = APIBlueprint(
    "sheet",
    __name__,
    url_prefix="/api/v1/jobs/<string:job>",
    abp_tags=[Tag(name="run sheet")],
    abp_responses={"4XX": Problem},
)


@sheet_api.get("/sheet", responses={200: Sheet})
def sheet(path: JobPath, query: SheetQuery) -> Response:
    """The sheet of one run."""
    return answer(sheet_of(path.job, query))


@sheet_api.post("/changes", responses={200: Sheet})
def change(path: JobPath, body: Change) -> Response:
    """Change one element; the sheet as it is then. See Change for which stage that makes."""
    state = job_or_404(path.job)
    correct = body.correct or body.edit.model_fields_set <= BUDGET_FIELDS
    wanted = Wanted(body.stage, body.revision, correct)
    made = revised(state, wanted, lambda c: edited(c, body.element, body.edit, tables()))
    if made is None:
        return answer(sheet_of(path.job, body.view))
    view = body.view.model_copy(update={"stage": made.stage})
    if not body.keep:
        return answer(_with(state, made, view))
    if not correct:
        keep(state, made)
        return answer(_with(state, made, view))
    before = state.heads[made.stage].craft
    keep(state, made, lambda craft: carried_over(craft, before, made.craft))
    return answer(sheet_of(path.job, view))


def answer(shown: Sheet) -> Response:
    """A sheet as JSON, written straight from the model: it answers every keystroke."""
    return Response(shown.model_dump_json(), content_type="application/json")


BUDGET_FIELDS = {"pinned", "critical", "duty", "engine_space", "least"}
"""What a change of these says is how the run is to be judged, not what is to be repaired."""


def _with(state: JobState, made: Revision, view: SheetQuery) -> Sheet:
    """The sheet with this revision as the head of its stage; nothing is kept here."""
    heads = {**state.heads, made.stage: made}
    state.heads.clear()
    state.heads.update({stage: heads[stage] for stage in STAGES if stage in heads})
    state.revisions[made.id] = made
    return maker_of(state, made.stage).sheet(view)


@sheet_api.post("/steps", responses={200: Stepped})
def step(path: JobPath, body: Step) -> dict[str, object]:
    """Undo or redo the last change of the wiring on one stage."""
    job_or_404(path.job)
    move = revision_store.step_back if body.direction == "undo" else revision_store.step_forward
    summary = move(connection(), path.job, body.stage)
    if summary is None:
        raise JobError("direction", f"there is nothing to {body.direction}")
    state = job_or_404(path.job)
    stage = body.stage if body.stage in state.heads else state.latest
    loads = {load.id for load in state.heads[stage].craft.loads}
    run = body.view.run if body.view.run in loads else None
    view = body.view.model_copy(update={"stage": stage, "run": run})
    shown = sheet_of(path.job, view) if loads else None
    word = "Undone" if body.direction == "undo" else "Redone"
    return Stepped(said=f"{word}: {summary}", stage=stage, sheet=shown).model_dump()


@sheet_api.post("/as-left", responses={200: Sheet})
def finish(path: JobPath, body: Finish) -> dict[str, object]:
    """The repair is done: the plan (or, without one, the wiring as found) is the wiring as left."""
    leave(job_or_404(path.job))
    return sheet_of(path.job, body.view.model_copy(update={"stage": "as_left"})).model_dump()


def leave(state: JobState) -> Revision:
    """The revision as left: the one there is, or a new one that stands as planned."""
    if "as_left" in state.heads:
        return state.heads["as_left"]
    base = state.heads.get("planned", state.heads["as_found"])
    made = Revision(
        id=new_id(),
        stage="as_left",
        parent=base.id,
        made_at=now(),
        craft=base.craft,
        summary="Repair done",
    )
    keep(state, made)
    return made
