"""The job file, version 1, as pydantic models; the published schema is made from them.

Numbers are SI as their keys say. Unknown keys, numbers in quotes, NaN and infinities are errors.
"""

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, TypeAdapter, WithJsonSchema

from spare_margin.core.model import pieces as core
from spare_margin.core.model.jobs import (
    Action,
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
from spare_margin.exchange.plain_text import real_time, seen_text

Id = Annotated[str, Field(pattern=r"^[A-Za-z0-9_.+-]{1,64}$")]
Text = Annotated[str, Field(max_length=2000)]
Name = Annotated[str, Field(max_length=120)]
Share = Annotated[float, Field(ge=-0.5, le=1.5)]
Dot = Annotated[list[Share], Field(min_length=2, max_length=2)]
Ohm = Annotated[float, Field(ge=0, le=1e6)]
Volts = Annotated[float, Field(gt=0, le=1000)]
Amperes = Annotated[float, Field(gt=0, le=5000)]
Celsius = Annotated[float, Field(ge=-60, le=250)]
Metres = Annotated[float, Field(gt=0, le=1000)]
Moment = Annotated[
    str,
    Field(pattern=r"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z$"),
    AfterValidator(real_time),
]


class FileModel(BaseModel):
    """Unknown keys and numbers in quotes are errors; so are NaN and infinities."""

    model_config = ConfigDict(
        extra="forbid", strict=True, allow_inf_nan=False, populate_by_name=True, frozen=True
    )


class Node(FileModel):
    """A test point."""

    id: Id
    name: Name = ""
    access: core.Access = "open"


class Source(FileModel):
    """An open-circuit voltage behind an internal resistance."""

    id: Id
    name: Name = ""
    live: Id
    back: Id = Field(alias="return")
    open_circuit_v: Annotated[float, Field(ge=0.1, le=1000)]
    internal_ohm: Ohm
    battery: core.Battery = "none"
    capacity_ah: Annotated[float, Field(gt=0, le=10000)] | None = None


class Size(FileModel):
    """A conductor size; the value `auto` asks to be sized."""

    system: Name
    value: Name
    finish: Name = "plain"


class Element(FileModel):
    """What every element has."""

    id: Id
    name: Name = ""
    start: Id = Field(alias="from")
    end: Id = Field(alias="to")


class Piece(Element):
    """What every element but a load has."""

    side: core.Side
    resistance_ohm: Ohm | None = None
    open: bool = False
    repair: core.Repair | None = None
    pinned_v: Annotated[float, Field(gt=0, le=100)] | None = None


class Conductor(Piece):
    """A length of wire."""

    kind: Literal["conductor"]
    length_m: Metres | None = None
    size: Size | None = None
    ohm_per_m: Annotated[float, Field(gt=0, le=1000)] | None = None
    insulation_c: Annotated[float, Field(ge=40, le=300)] | None = None
    temperature_c: Celsius | None = None
    engine_space: bool = False
    bundle: Annotated[int, Field(ge=1, le=500)] = 1
    unsupported: bool = False
    cable: Name = ""


DrawnKind = Literal[
    "joint", "fuse", "breaker", "switch", "relay_contact", "body_return", "resistor"
]


class FixedPiece(Piece):
    """Anything whose resistance does not come by the metre."""

    kind: DrawnKind
    style: Name | None = None
    rating_a: Amperes | None = None


class UnknownStretch(Piece):
    """A stretch that nobody has drawn: no figures wanted, `guess_ohm` may be given."""

    kind: Literal["unknown"]
    guess_ohm: Ohm | None = None


class Load(Element):
    """What the volts are for."""

    kind: Literal["load"]
    behaviour: core.LoadLaw | None = None
    side: core.Side | None = None
    current_a: Amperes | None = None
    resistance_ohm: Annotated[float, Field(gt=0, le=1e6)] | None = None
    power_w: Annotated[float, Field(gt=0, le=1e5)] | None = None
    rated_v: Volts | None = None
    start_multiple: Annotated[float, Field(ge=1, le=20)] | None = None
    least_v: Volts | None = None
    duty: core.Duty = "ordinary"
    critical: bool = False


AnyElement = Annotated[Conductor | FixedPiece | UnknownStretch | Load, Field(discriminator="kind")]


class SourceState(FileModel):
    """What a scenario changes in a source."""

    open_circuit_v: Volts | None = None
    internal_ohm: Ohm | None = None


class Scenario(FileModel):
    """A state of the craft."""

    id: Id
    name: Name = ""
    sources: dict[Id, SourceState] = {}
    on: list[Id]
    ambient_c: Celsius = 20.0
    temperature_model: core.TemperatureModel = "ambient"
    starting: list[Id] = []
    engine_c: Celsius | None = None
    contacts: dict[Id, core.ContactState] = {}


class Wiring(FileModel):
    """Everything drawn: what a revision holds."""

    reference: Id | None = None
    nodes: Annotated[list[Node], Field(min_length=2, max_length=20000)]
    sources: Annotated[list[Source], Field(min_length=1, max_length=100)]
    elements: Annotated[list[AnyElement], Field(max_length=20000)]
    scenarios: Annotated[list[Scenario], Field(min_length=1, max_length=200)]


class OwnCeilings(FileModel):
    """Ceilings of one load in every scenario where it is on."""

    feed_v: Volts | None = None
    return_v: Volts | None = None
    round_trip_v: Volts | None = None


class OwnLimits(FileModel):
    """The limits a job sets itself: a set by name, and ceilings by load."""

    set: Annotated[str, Field(min_length=1, max_length=200)] = "by-duty"
    loads: dict[Id, OwnCeilings] = {}


class FileComplaint(FileModel):
    """What is wrong, when it happens, and under which conditions."""

    what: Text = ""
    when: Text = ""
    conditions: Text = ""


class SourceReadings(FileModel):
    """What was read at a source; `loaded_v` on the posts, `loaded_clamps_v` between the clamps."""

    resting_v: Annotated[float, Field(ge=-1000, le=1000)] | None = None
    loaded_v: Annotated[float, Field(ge=-1000, le=1000)] | None = None
    loaded_a: Amperes | None = None
    loaded_clamps_v: Annotated[float, Field(ge=-1000, le=1000)] | None = None
    temperature_c: Celsius | None = None
    cold_crank_a: Amperes | None = None
    load_end_v: Annotated[float, Field(ge=-1000, le=1000)] | None = None
    charging_v: Annotated[float, Field(ge=-1000, le=1000)] | None = None


class FileRevision(FileModel):
    """A later or earlier state of the wiring than the file's own."""

    id: Id
    stage: Stage
    parent: Id | None = None
    action: Action = "changed"
    summary: Text = ""
    who: Name = ""
    made_at: Moment
    wiring: Wiring


class FileOwnRevision(FileModel):
    """Where the file's own wiring comes from, if anything was changed before it."""

    parent: Id | None = None
    action: Action = "imported"
    summary: Text = ""
    who: Name = ""
    made_at: Moment


class FileHead(FileModel):
    """Where a stage stands (`at`; none: undone away), and where redo leads (`tip`)."""

    at: Id | None = None
    tip: Id


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


Travelling = Literal[
    "conductors", "ampacity", "fuses", "fixed_pieces", "limit_sets", "single_limits"
]
"""The tables whose rows travel with a job."""
Cell = Annotated[Any, WithJsonSchema({"type": ["string", "number"]})]


class JobFile(Wiring):
    """The whole document. Its own wiring is the job as found."""

    model_config = ConfigDict(title="Spare Margin job file, version 1")

    format: Literal["spare-margin-job"]
    version: Literal[1]
    id: Id | None = None
    made_at: Moment | None = None
    title: Annotated[str, Field(min_length=1, max_length=200), AfterValidator(seen_text)]
    craft_name: Annotated[str, Field(max_length=200), AfterValidator(seen_text)] = ""
    customer: Annotated[str, Field(max_length=200), AfterValidator(seen_text)] = ""
    craft: core.CraftKind
    nominal_v: Annotated[float, Field(json_schema_extra={"enum": [12, 24, 48]})]
    chassis_polarity: core.Polarity
    complaint: FileComplaint | None = None
    limits: OwnLimits | None = None
    stock: list[Name] | None = None
    source_checks: dict[Id, SourceReadings] = {}
    tables: dict[Travelling, Annotated[list[dict[str, Cell]], Field(max_length=1000)]] = {}
    revision: Id = "as-found"
    revision_made: FileOwnRevision | None = None
    heads: dict[Stage, FileHead] = {}
    revisions: Annotated[list[FileRevision], Field(max_length=2000)] = []
    moments: Annotated[list[FileMoment], Field(max_length=10_000)] = []
    trials: Annotated[list[FileTrial], Field(max_length=10_000)] = []
    readings: Annotated[list[FileReading], Field(max_length=10_000)] = []
    walk_notes: Annotated[list[FileNote], Field(max_length=10_000)] = []
    sign_offs: Annotated[list[FileSignOff], Field(max_length=1000)] = []
    meter_logs: Annotated[list[FileLog], Field(max_length=200)] = []


ELEMENT: TypeAdapter[AnyElement] = TypeAdapter(AnyElement)


def element_keys(kind: str) -> set[str]:
    """The keys that an element of this kind may have in a job file."""
    models: dict[str, type[Element]] = {
        "conductor": Conductor,
        "load": Load,
        "unknown": UnknownStretch,
    }
    fields = models.get(kind, FixedPiece).model_fields
    return {field.alias or name for name, field in fields.items()}


def schema() -> dict[str, Any]:
    """The job file as a JSON Schema, draft 2020-12."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **JobFile.model_json_schema(by_alias=True),
    }
