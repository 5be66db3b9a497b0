"""How a changed wiring is kept: on which stage, and carried over to which later ones."""

from collections.abc import Callable
from dataclasses import dataclass

from spare_margin.core.drawing import ids_of
from spare_margin.core.errors import JobError
from spare_margin.core.jobs import STAGES, Revision, Stage
from spare_margin.core.pieces import Craft
from spare_margin.store import revisions as revision_store

from .bench import JobState
from .connection import connection, new_id, now
from .opened import known_wirings
from .problems import Conflict
from .words import differences

MOVED_ON = "The wiring was changed elsewhere since. It is shown as it is now; type again."
Act = Callable[[Craft], Craft]


@dataclass(frozen=True, slots=True)
class Wanted:
    """A change of the wiring: on the stage and revision that were on screen.

    With `correct`, the drawing as found was wrong: the change is made there and on every later stage.
    Otherwise, once something was measured as found, a change there becomes part of the plan.
    """

    stage: Stage
    revision: str
    correct: bool = False


def revised(state: JobState, wanted: Wanted, act: Act, summary: str = "") -> Revision | None:
    """The revision that a change makes, not kept yet; None where it changes nothing.

    Raises Conflict where the job moved on since, and what `act` raises.
    """
    head = state.heads.get(wanted.stage)
    if head is None or head.id != wanted.revision:
        raise Conflict(MOVED_ON)
    stage = _stage_for(state, wanted)
    base = state.heads.get(stage, head)
    craft = act(base.craft)
    if craft == base.craft:
        return None
    said = summary or "; ".join(differences(base.craft, craft)) or "a source changed"
    return Revision(
        id=new_id(), stage=stage, parent=base.id, made_at=now(), craft=craft, summary=said[:2000]
    )


def keep(state: JobState, made: Revision, later: Act | None = None) -> list[Stage]:
    """Keep a revision; `later` says what it does to each later stage there is, all or nothing.

    The stages that have a new revision now, so that all of them can be undone.

    Raises Conflict where the job moved on since; JobError where a later stage cannot take it.
    """
    kept = [made]
    if later is not None:
        for stage, head in state.heads.items():
            if STAGES.index(stage) > STAGES.index(made.stage):
                kept += _carried(stage, head, made.summary, later)
    if not revision_store.change(connection(), state.job.id, *kept):
        raise Conflict(MOVED_ON)
    known_wirings().learn(state.job.id, kept)
    return [revision.stage for revision in kept]


def _carried(stage: Stage, head: Revision, summary: str, later: Act) -> list[Revision]:
    try:
        craft = later(head.craft)
    except JobError as wrong:
        word = "the plan" if stage == "planned" else "the wiring as left"
        raise JobError(
            wrong.path, f"{word} cannot take this correction: {wrong.problem}", wrong.accepted
        ) from None
    if craft == head.craft:
        return []
    return [
        Revision(
            id=new_id(), stage=stage, parent=head.id, made_at=now(), craft=craft,
            summary=f"Drawing corrected: {summary}"[:2000],
        )
    ]  # fmt: skip


def _stage_for(state: JobState, wanted: Wanted) -> Stage:
    measured = wanted.stage == "as_found" and state.readings_of("as_found")
    return "planned" if measured and not wanted.correct else wanted.stage


def taken_ids(state: JobState) -> frozenset[str]:
    """Every id that any wiring of the job has: what is new gets another, the same on each stage."""
    return frozenset(i for r in state.revisions.values() for i in ids_of(r.craft))
