"""The desk of a job: its session and the connection it is changed through, for every change of a wiring."""

import sqlite3
from collections.abc import Callable
from dataclasses import dataclass

from spare_margin.core.circuit.extent import too_large
from spare_margin.core.circuit.runs import hang_alike
from spare_margin.core.edit.stages import stage_for
from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import STAGES, Action, Revision, Stage
from spare_margin.core.model.pieces import Craft
from spare_margin.service.errors import MOVED_ON, Conflict
from spare_margin.service.job.revising import keep_within, new_id, now
from spare_margin.service.job.session import JobSession
from spare_margin.store.file.database import transaction


@dataclass(frozen=True, slots=True)
class Wanted:
    """A change of the wiring: on the stage and revision that were on screen.

    With `correct`, the drawing as found was wrong: the change is made there and on every later stage.
    Otherwise, once something was measured as found, a change there becomes part of the plan.
    """

    stage: Stage
    revision: str
    correct: bool = False


@dataclass(frozen=True, slots=True)
class Acted:
    """A wiring as an act makes it of another, and the ids of what it made, if it made something."""

    craft: Craft
    made: tuple[str, ...] = ()


Act = Callable[[Craft], Acted]


@dataclass(frozen=True, slots=True)
class Proposed:
    """A revision that a change makes and that is not kept yet (None: it changes nothing)."""

    revision: Revision | None
    made: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Edited:
    """What a change came to.

    `stage` is where it was made, `stages` are all that have it now: undoing it undoes each; none where it
    changed nothing. `revision` is the wiring of that stage, `made` are the ids of what was made.
    """

    stage: Stage
    stages: tuple[Stage, ...]
    revision: str
    made: tuple[str, ...] = ()


class Desk:
    """A job opened to be changed. Each change is kept whole or not at all, upon what was on screen."""

    def __init__(self, connection: sqlite3.Connection, session: JobSession) -> None:
        self.connection, self.session = connection, session
        self.snapshot = session.snapshot

    def proposed(self, wanted: Wanted, act: Act, action: Action = "changed") -> Proposed:
        """What a change would make. Conflict where the job moved on since, and what `act` raises."""
        heads = self.snapshot.heads
        head = heads.get(wanted.stage)
        if head is None or head.id != wanted.revision:
            raise Conflict(MOVED_ON)
        measured = bool(self.snapshot.readings_of("as_found"))
        stage = stage_for(wanted.stage, measured, wanted.correct)
        base = heads.get(stage, head)
        acted = act(base.craft)
        craft = acted.craft
        if craft == base.craft:
            return Proposed(None, acted.made)
        # What hangs together as before has as many pieces in every run as before.
        if hang_alike(base.craft, craft):
            craft.takes_joints_of(base.craft)
        elif (large := too_large(craft)) is not None:
            raise large
        revision = Revision(
            id=new_id(), stage=stage, parent=base.id, made_at=now(), craft=craft, action=action
        )
        return Proposed(revision, acted.made)

    def keep(self, made: Revision, later: Act | None = None) -> tuple[Stage, ...]:
        """Keep a revision; `later` says what it does to each later stage there is, all or nothing.

        The stages that have a new revision now. Conflict where the job moved on since; JobError where a
        later stage cannot take it.
        """
        kept = [made]
        if later is not None:
            for stage, head in self.snapshot.heads.items():
                if STAGES.index(stage) > STAGES.index(made.stage):
                    kept += _carried(stage, head, later)
        with transaction(self.connection):
            keep_within(self.connection, self.snapshot, kept)
        self.session.caches.learn(self.snapshot.job.id, kept)
        return tuple(revision.stage for revision in kept)

    def change(self, wanted: Wanted, act: Act, action: Action = "changed") -> Edited:
        """Make a change; one that corrects the drawing is made on the later stages too."""
        proposed = self.proposed(wanted, act, action)
        revision = proposed.revision
        if revision is None:
            return Edited(wanted.stage, (), wanted.revision, proposed.made)
        stages = self.keep(revision, act if wanted.correct else None)
        return Edited(revision.stage, stages, revision.id, proposed.made)

    def everywhere(self, act: Act, action: Action) -> Edited:
        """Make a change that is true of the craft itself, on every stage there is."""
        first, head = next(iter(self.snapshot.heads.items()))
        return self.change(Wanted(first, head.id, correct=True), act, action)

    def planned_on(self, revision: str) -> Revision:
        """What a plan is made upon: the plan, else the wiring as found. Conflict if that moved on."""
        heads = self.snapshot.heads
        head = heads.get("planned", heads["as_found"])
        if head.id != revision:
            raise Conflict(MOVED_ON)
        return head

    def plan(self, revision: str, craft: Craft) -> Edited:
        """Make a wiring the plan; what was planned before can be undone back."""
        head = self.planned_on(revision)
        if craft == head.craft:
            return Edited("planned", (), head.id)
        made = Revision(id=new_id(), stage="planned", parent=head.id, made_at=now(), craft=craft)
        return Edited("planned", self.keep(made), made.id)


def _carried(stage: Stage, head: Revision, later: Act) -> list[Revision]:
    try:
        craft = later(head.craft).craft
    except JobError as wrong:
        word = "the plan" if stage == "planned" else "the wiring as left"
        raise JobError(
            wrong.path, f"{word} cannot take this correction: {wrong.problem}", wrong.accepted
        ) from None
    if craft == head.craft:
        return []
    return [
        Revision(
            id=new_id(), stage=stage, parent=head.id, made_at=now(), craft=craft, action="corrected"
        )
    ]
