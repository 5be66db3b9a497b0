"""What the API takes and says of recordings."""

from collections.abc import Mapping
from typing import Annotated

from pydantic import BaseModel, Field

from spare_margin.core.model.jobs import LoadState, MeasuredStage
from spare_margin.core.model.pieces import ContactState
from spare_margin.core.model.values import AsTyped, DeviceId
from spare_margin.service.live.recording import Kind
from spare_margin.web.common.models import Model, Who


class RecordingPath(BaseModel):
    """A recording of a job."""

    job: str
    recording: str


class LaidIn(Model):
    """A meter and the points that its leads lie on; empty where nobody said."""

    meter: Annotated[str, Field(max_length=64)]
    red: Annotated[str, Field(max_length=64)] = ""
    black: Annotated[str, Field(max_length=64)] = ""


class RecordingForm(Model):
    """What is to be recorded; a start or a change is looked for on the first of the meters.

    `back_s` is how many seconds before now belong to it; `least_change` what counts as a change.
    """

    id: DeviceId
    kind: Kind
    meters: Annotated[list[LaidIn], Field(min_length=1, max_length=4)]
    back_s: Annotated[float, Field(ge=0, le=600)] = 0.0
    least_change: AsTyped = ""
    stage: MeasuredStage
    scenario: str
    states: Mapping[str, LoadState] | None = None
    contacts: Annotated[dict[str, ContactState], Field(max_length=50, default_factory=dict)]
    charging: bool | None = None
    who: Who = ""


class ChangeOut(Model):
    """A change of a watched figure: when it was after the beginning, in words; what was moved meanwhile.

    `moved` is None while nobody said, empty where nothing was; `can_say` whether it can be said.
    """

    number: int
    at: str
    says: str
    moved: str | None
    can_say: bool
    taken: bool


class RecordingOut(Model):
    """A recording: how it stands, what changed; its log is of the same id once `saved`."""

    id: str
    kind: Kind
    name: str
    says: str
    is_over: bool
    changing: bool
    saved: bool
    moving: str
    changes: list[ChangeOut]
    more_changes: int
    wrong: str


class RecordingList(Model):
    """The recordings of a job since the program was started, the newest first."""

    recordings: list[RecordingOut]


class Moving(Model):
    """A piece that is moved from now on; empty: none."""

    piece: Annotated[str, Field(max_length=64)]


class Moved(Model):
    """The piece that was moved when a figure changed; empty: none was."""

    change: Annotated[int, Field(ge=0, le=10_000)]
    piece: Annotated[str, Field(max_length=64)]
