"""The run sheet: read it, change the wiring, undo, finish the repair."""

from flask_openapi3.blueprint import APIBlueprint
from flask_openapi3.models.tag import Tag

from spare_margin.core.errors import JobError
from spare_margin.core.jobs import STAGES, Revision, Stage
from spare_margin.core.pieces import Craft
from spare_margin.data.shelves import shipped_tables
from spare_margin.store import revisions as revision_store

from .bench import JobState
from .connection import connection, job_or_404, maker_of, new_id, now, sheet_of
from .edits import carried_over, edited
from .jobs_api import JobPath
from .models import Change, Finish, Problem, Sheet, SheetQuery, Step, Stepped
from .problems import Conflict
from .words import differences

sheet_api = APIBlueprint(
    "sheet",
    __name__,
    url_prefix="/api/v1/jobs/<string:job>",
    abp_tags=[Tag(name="run sheet")],
    abp_responses={"4XX": Problem},
)


@sheet_api.get("/sheet", responses={200: Sheet})
def sheet(path: JobPath, query: SheetQuery) -> dict[str, object]:
    """The sheet of one run."""
    return sheet_of(path.job, query).model_dump()


@sheet_api.post("/changes", responses={200: Sheet})
def change(path: JobPath, body: Change) -> dict[str, object]:
    """Change one element; the sheet as it is then. See Change for which stage that makes."""
    state = job_or_404(path.job)
    head = state.heads.get(body.stage)
    if head is None or head.id != body.revision:
        raise Conflict(
            "The wiring was changed elsewhere since. It is shown as it is now; type again."
        )
    stage = _stage_for(state, body)
    base = state.heads.get(stage, head)
    craft = edited(base.craft, body.element, body.edit, shipped_tables())
    view = body.view.model_copy(update={"stage": stage})
    if craft == base.craft:
        return sheet_of(path.job, body.view).model_dump()
    made = Revision(
        id=new_id(),
        stage=stage,
        parent=base.id,
        made_at=now(),
        craft=craft,
        summary="; ".join(differences(base.craft, craft)) or "a source changed",
    )
    if not body.keep:
        return _with(state, made, view).model_dump()
    if not revision_store.change(connection(), path.job, made, base.id):
        raise Conflict(
            "The wiring was changed elsewhere since. It is shown as it is now; type again."
        )
    if body.correct:
        _correct_later_stages(state, base.craft, craft, path.job)
        return sheet_of(path.job, view).model_dump()
    return _with(state, made, view).model_dump()


def _stage_for(state: JobState, body: Change) -> Stage:
    """Once something was measured as found, a change there is a repair, unless it corrects."""
    if body.stage == "as_found" and not body.correct and state.readings_of("as_found"):
        return "planned"
    return body.stage


def _with(state: JobState, made: Revision, view: SheetQuery) -> Sheet:
    """The sheet with this revision as the head of its stage; nothing is kept here."""
    heads = {**state.heads, made.stage: made}
    state.heads.clear()
    state.heads.update({stage: heads[stage] for stage in STAGES if stage in heads})
    state.revisions[made.id] = made
    return maker_of(state, made.stage).sheet(view)


def _correct_later_stages(state: JobState, before: Craft, after: Craft, job: str) -> None:
    for stage, head in state.heads.items():
        if stage == "as_found":
            continue
        craft = carried_over(head.craft, before, after)
        if craft != head.craft:
            made = Revision(
                id=new_id(),
                stage=stage,
                parent=head.id,
                made_at=now(),
                craft=craft,
                summary="Drawing corrected",
            )
            revision_store.change(connection(), job, made, head.id)


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
    shown = sheet_of(path.job, body.view.model_copy(update={"stage": stage}))
    word = "Undone" if body.direction == "undo" else "Redone"
    return Stepped(said=f"{word}: {summary}", sheet=shown).model_dump()


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
    if not revision_store.change(connection(), state.job.id, made, base.id):
        raise Conflict("The wiring was changed elsewhere since. It is shown as it is now.")
    return made
