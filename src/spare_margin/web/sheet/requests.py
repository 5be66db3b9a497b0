"""What the API takes for a run sheet, and what it answers."""

from dataclasses import dataclass, field
from typing import Literal

from spare_margin.core.model.jobs import Stage
from spare_margin.core.model.pieces import Duty, LoadLaw, PieceKind, Repair
from spare_margin.core.model.values import AsTyped
from spare_margin.service.readings.taking import Typed
from spare_margin.web.common.models import Model, SheetQuery, Told, as_told

from .models import Sheet


class Edit(Model):
    """New figures for one element, as typed; keys that are not given stay as they are."""

    name: AsTyped | None = None
    kind: PieceKind | None = None
    length: AsTyped | None = None
    size: AsTyped | None = None
    resistance: AsTyped | None = None
    style: AsTyped | None = None
    rating: AsTyped | None = None
    insulation: AsTyped | None = None
    engine_space: bool | None = None
    bundle: AsTyped | None = None
    unsupported: bool | None = None
    cable: AsTyped | None = None
    pinned: AsTyped | None = None
    open: bool | None = None
    repair: Repair | Literal["none"] | None = None
    behaviour: LoadLaw | None = None
    current: AsTyped | None = None
    power: AsTyped | None = None
    rated: AsTyped | None = None
    least: AsTyped | None = None
    start: AsTyped | None = None
    duty: Duty | None = None
    critical: bool | None = None
    open_circuit: AsTyped | None = None
    internal: AsTyped | None = None


class Change(Model):
    """A change of the wiring: one element, at one stage, on the revision that was on screen.

    With `correct`, the drawing as found was wrong; otherwise, once something was measured as
    found, a change there becomes part of the plan. With `keep` false nothing is kept: a what-if, asked at
    every key, in which of all pieces the changed one alone says how its figures came about.
    """

    stage: Stage
    revision: str
    element: str
    edit: Edit
    correct: bool = False
    keep: bool = True
    view: SheetQuery = SheetQuery()


class UndoRedo(Model):
    """Undo or redo on one stage."""

    stage: Stage
    direction: Literal["undo", "redo"]
    view: SheetQuery = SheetQuery()


class Undone(Model):
    """What was undone or redone, and the sheet as it is now; none where no run is left."""

    said: str
    stage: Stage
    sheet: Sheet | None


@as_told
@dataclass(frozen=True, slots=True, kw_only=True)
class TypedInView(Typed):
    """A reading as typed, and which sheet is answered with it; none where it is null."""

    view: SheetQuery | None = field(default_factory=SheetQuery)


class NewReading(Told[TypedInView]):
    """A reading as typed."""


class KeptReading(Model):
    """How a reading was understood, and the sheet with it; none where `view` was null."""

    id: str
    understood: str
    sheet: Sheet | None


class Finish(Model):
    """The repair is done: the plan becomes the wiring as left."""

    view: SheetQuery = SheetQuery()
