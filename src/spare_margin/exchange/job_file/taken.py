"""What a job file says of what was read, tried, seen and signed."""

from typing import Annotated

from pydantic import Field

from spare_margin.core.model.jobs import (
    Hold,
    LoadState,
    LogFigure,
    LogQuantity,
    LogSegment,
    NoteState,
    Outcome,
    ProofOutcome,
    Quantity,
    ReadingState,
    SignedBy,
    Stage,
    TrialKind,
)
from spare_margin.core.model.pieces import ContactState

from .bounds import Amperes, Dot, FileModel, Id, Moment, Name, Text


class FileWindow(FileModel):
    """The window of a meter's log that a reading was taken from (s), and which figure of it."""

    log: Id
    channel: Annotated[int, Field(ge=0, le=100)]
    figure: LogFigure
    start_s: Annotated[float, Field(ge=0, le=1e9)]
    end_s: Annotated[float, Field(ge=0, le=1e9)]


class FileSegment(FileModel):
    """A stretch of a log in which the load was off, starting, or running steadily (s)."""

    kind: LogSegment
    start_s: Annotated[float, Field(ge=0, le=1e9)]
    end_s: Annotated[float, Field(ge=0, le=1e9)]


class FileLogChannel(FileModel):
    """A channel of a meter's log, and the nodes between which it was read, where somebody said."""

    name: Name
    quantity: LogQuantity
    red: str = ""
    black: str = ""


Traced = Annotated[list[Annotated[float, Field(ge=-1e9, le=1e9)] | None], Field(max_length=5000)]


class FileLog(FileModel):
    """What is kept of a meter's log: least and most of every channel from one of `seconds` to the next."""

    id: Id
    name: Annotated[str, Field(max_length=200)]
    made_at: Moment
    started_at: Moment | None = None
    duration_s: Annotated[float, Field(ge=0, le=1e9)]
    row_count: Annotated[int, Field(ge=0, le=100_000_000)]
    channels: Annotated[list[FileLogChannel], Field(max_length=100)]
    seconds: Annotated[list[Annotated[float, Field(ge=0, le=1e9)]], Field(max_length=5000)]
    least: Annotated[list[Traced], Field(max_length=100)]
    most: Annotated[list[Traced], Field(max_length=100)]
    segments: Annotated[list[FileSegment], Field(max_length=10000)] = []


class FileReading(FileModel):
    """A reading; `revision` names the state of the wiring that it was taken on."""

    id: Id
    revision: Id | None = None
    moment: Id | None = None
    trial: Id | None = None
    quantity: Quantity = "volts"
    red: Id
    black: Id
    value: Annotated[float, Field(ge=-1e7, le=1e7)] | None = None
    state: ReadingState = "value"
    typed: Annotated[str, Field(max_length=200)] = ""
    accuracy: Annotated[float, Field(ge=0, le=1e7)] = 0.0
    leads_ohm: Annotated[float, Field(ge=0, le=100)] = 0.0
    scenario: Id | None = None
    taken_at: Moment | None = None
    supersedes: Id | None = None
    source_v: Annotated[float, Field(ge=-1000, le=1000)] | None = None
    note: Text = ""
    meter: Annotated[str, Field(max_length=400)] = ""
    hold: Hold = ""
    moved: Annotated[str, Field(pattern=r"^([A-Za-z0-9_.+-]{1,64})?$")] = ""
    warm_min: Annotated[float, Field(ge=0, le=10000)] | None = None
    who: Name = ""
    window: FileWindow | None = None


class FileStandIn(FileModel):
    """A known load hung between two points in place of an unplugged one."""

    start: Id = Field(alias="from")
    end: Id = Field(alias="to")
    amperes: Amperes


class FileMoment(FileModel):
    """The conditions under which readings belong together; a load not named is as in the scenario."""

    id: Id
    scenario: Id
    loads: dict[Id, LoadState] = {}
    warm_min: Annotated[float, Field(ge=0, le=10000)] | None = None
    rpm: Annotated[float, Field(ge=0, le=20000)] | None = None
    charging: bool | None = None
    note: Text = ""
    stand_in: FileStandIn | None = None
    contacts: dict[Id, ContactState] = {}


class FileTrial(FileModel):
    """What was joined for a moment, and what came of it; `ohm` is the spare wire's.

    `revision` is the wiring it was tried on: the file's own where it is not said.
    """

    id: Id
    moment: Id
    kind: TrialKind
    start: Id = Field(alias="from")
    end: Id = Field(alias="to")
    outcome: Outcome | None = None
    ohm: Annotated[float, Field(ge=0, le=100)] = 0.01
    revision: Annotated[str, Field(pattern=r"^([A-Za-z0-9_.+-]{1,64})?$")] = ""
    taken_at: Annotated[str, Field(pattern=r"^(\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z)?$")] = ""
    note: Text = ""
    who: Name = ""


class FileNote(FileModel):
    """Something said on a walk: a caution taken note of, a step skipped and why."""

    id: Id
    stage: Stage
    run: Id
    step: Annotated[str, Field(min_length=1, max_length=200)]
    state: NoteState
    reason: Text = ""
    who: Name = ""
    made_at: Moment


class FileSignOff(FileModel):
    """A signature under the proof of a run; `strokes` in shares of the box's width, y downwards."""

    id: Id
    run: Id
    revision: Id
    role: SignedBy
    name: Annotated[str, Field(min_length=1, max_length=200)]
    strokes: Annotated[
        list[Annotated[list[Dot], Field(max_length=2000)]], Field(max_length=100)
    ] = []
    outcome: ProofOutcome
    made_at: Moment
