"""The job file, version 1, as pydantic models; the published schema is made from them.

Numbers are SI as their keys say. Unknown keys, numbers in quotes, NaN and infinities are errors.
"""

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, ConfigDict, Field, WithJsonSchema

from spare_margin.core.model import pieces as core
from spare_margin.core.model.jobs import Action, Stage
from spare_margin.exchange.plain_text import seen_text

from .bounds import Amperes, Celsius, FileModel, Id, Moment, Name, Text, Volts
from .drawn import Wiring, WiringChanges
from .taken import FileLog, FileMoment, FileNote, FileReading, FileSignOff, FileTrial


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


Folded = Annotated[int, Field(ge=0, le=1_000_000)]
"""How many earlier changes are told as one with this."""


class FileRevision(FileModel):
    """A later or earlier state of the wiring than the file's own: whole, or as its changes from another."""

    id: Id
    stage: Stage
    parent: Id | None = None
    action: Action = "changed"
    summary: Text = ""
    who: Name = ""
    made_at: Moment
    folded: Folded = 0
    wiring: Wiring | None = None
    changes: WiringChanges | None = None


class FileOwnRevision(FileModel):
    """Where the file's own wiring comes from, if anything was changed before it."""

    parent: Id | None = None
    action: Action = "imported"
    summary: Text = ""
    who: Name = ""
    made_at: Moment
    folded: Folded = 0


class FileHead(FileModel):
    """Where a stage stands (`at`; none: undone away), and where redo leads (`tip`)."""

    at: Id | None = None
    tip: Id


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
    revisions: Annotated[list[FileRevision], Field(max_length=12_000)] = []
    moments: Annotated[list[FileMoment], Field(max_length=10_000)] = []
    trials: Annotated[list[FileTrial], Field(max_length=10_000)] = []
    readings: Annotated[list[FileReading], Field(max_length=10_000)] = []
    walk_notes: Annotated[list[FileNote], Field(max_length=10_000)] = []
    sign_offs: Annotated[list[FileSignOff], Field(max_length=1000)] = []
    meter_logs: Annotated[list[FileLog], Field(max_length=200)] = []


def schema() -> dict[str, Any]:
    """The job file as a JSON Schema, draft 2020-12."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **JobFile.model_json_schema(by_alias=True),
    }
