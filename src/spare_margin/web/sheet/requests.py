"""What the API takes for a run sheet, and what it answers."""

from typing import Annotated, Literal

from pydantic import Field

from spare_margin.core.model.jobs import Hold, LoadState, Quantity, Stage
from spare_margin.core.model.pieces import ContactState, Duty, LoadLaw, PieceKind, Repair
from spare_margin.web.common.models import Model, SheetQuery, Typed, Who

from .models import Sheet


class Edit(Model):
    """New figures for one element, as typed; keys that are not given stay as they are."""

    name: Typed | None = None
    kind: PieceKind | None = None
    length: Typed | None = None
    size: Typed | None = None
    resistance: Typed | None = None
    style: Typed | None = None
    rating: Typed | None = None
    insulation: Typed | None = None
    engine_space: bool | None = None
    bundle: Typed | None = None
    unsupported: bool | None = None
    cable: Typed | None = None
    pinned: Typed | None = None
    open: bool | None = None
    repair: Repair | Literal["none"] | None = None
    behaviour: LoadLaw | None = None
    current: Typed | None = None
    power: Typed | None = None
    rated: Typed | None = None
    least: Typed | None = None
    start: Typed | None = None
    duty: Duty | None = None
    critical: bool | None = None
    open_circuit: Typed | None = None
    internal: Typed | None = None


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


class NewReading(Model):
    """A reading as typed. The id is made on the device, so that sending twice keeps it once.

    `source` is the source read with it, `warm` minutes that the load had been on. A reading that had
    to wait says on which `revision` it was taken, and how long it `waited_s` by the device's own
    clock: whatever that clock is set to, the time it was taken comes out right.
    """

    id: Annotated[str, Field(pattern=r"^[A-Za-z0-9_.+-]{8,64}$")]
    stage: Literal["as_found", "as_left"]
    scenario: str
    quantity: Quantity = "volts"
    red: str
    black: str
    typed: Typed
    supersedes: str | None = None
    note: Annotated[str, Field(max_length=2000)] = ""
    source: Typed = ""
    hold: Hold = ""
    warm: Typed = ""
    who: Who = ""
    revision: str | None = None
    waited_s: Annotated[float, Field(ge=0, le=31_536_000)] = 0.0
    states: dict[str, LoadState] | None = None
    charging: bool | None = None
    leads: Typed = ""
    beside: Typed = ""
    moved: Annotated[str, Field(max_length=64)] = ""
    rpm: Typed = ""
    contacts: Annotated[dict[str, ContactState], Field(max_length=50)] = Field(default_factory=dict)
    view: SheetQuery | None = SheetQuery()


class KeptReading(Model):
    """How a reading was understood, and the sheet with it; none where `view` was null."""

    id: str
    understood: str
    sheet: Sheet | None


class Finish(Model):
    """The repair is done: the plan becomes the wiring as left."""

    view: SheetQuery = SheetQuery()
