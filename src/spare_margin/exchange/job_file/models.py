"""The job file, version 1, as pydantic models; the published schema is made from them.

Numbers are SI as their keys say. Unknown keys, numbers in quotes, NaN and infinities are errors.
"""

from typing import Annotated, Any, Literal

from pydantic import ConfigDict, Field, WithJsonSchema

from spare_margin.core.model import pieces as core
from spare_margin.core.model.jobs import (
    Action,
    Complaint,
    LogTrace,
    Moment,
    Reading,
    SignOff,
    Stage,
    Trial,
    WalkNote,
)
from spare_margin.core.model.limits import Ceilings
from spare_margin.core.model.photographs import MOST_PHOTOGRAPHS, Photograph
from spare_margin.core.model.values import (
    Amperes,
    Called,
    Celsius,
    Id,
    Name,
    SignedVolts,
    Text,
    Time,
)

from .drawn import Wiring, WiringChanges
from .records import FileModel


class OwnLimits(FileModel):
    """The limits a job sets itself: a set by name, and ceilings by load."""

    set: Annotated[str, Field(min_length=1, max_length=200)] = "by-duty"
    loads: dict[Id, Ceilings] = {}


class SourceReadings(FileModel):
    """What was read at a source; `loaded_v` on the posts, `loaded_clamps_v` between the clamps."""

    resting_v: SignedVolts | None = None
    loaded_v: SignedVolts | None = None
    loaded_a: Amperes | None = None
    loaded_clamps_v: SignedVolts | None = None
    temperature_c: Celsius | None = None
    cold_crank_a: Amperes | None = None
    load_end_v: SignedVolts | None = None
    charging_v: SignedVolts | None = None


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
    made_at: Time
    folded: Folded = 0
    wiring: Wiring | None = None
    changes: WiringChanges | None = None


class FileOwnRevision(FileModel):
    """Where the file's own wiring comes from, if anything was changed before it."""

    parent: Id | None = None
    action: Action = "imported"
    summary: Text = ""
    who: Name = ""
    made_at: Time
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
    made_at: Time | None = None
    title: Annotated[Called, Field(min_length=1)]
    craft_name: Called = ""
    customer: Called = ""
    craft: core.CraftKind
    nominal_v: Annotated[float, Field(json_schema_extra={"enum": [12, 24, 48]})]
    chassis_polarity: core.Polarity
    complaint: Complaint | None = None
    limits: OwnLimits | None = None
    stock: list[Name] | None = None
    source_checks: dict[Id, SourceReadings] = {}
    tables: dict[Travelling, Annotated[list[dict[str, Cell]], Field(max_length=1000)]] = {}
    revision: Id = "as-found"
    revision_made: FileOwnRevision | None = None
    heads: dict[Stage, FileHead] = {}
    revisions: Annotated[list[FileRevision], Field(max_length=12_000)] = []
    moments: Annotated[list[Moment], Field(max_length=10_000)] = []
    trials: Annotated[list[Trial], Field(max_length=10_000)] = []
    readings: Annotated[list[Reading], Field(max_length=10_000)] = []
    walk_notes: Annotated[list[WalkNote], Field(max_length=10_000)] = []
    sign_offs: Annotated[list[SignOff], Field(max_length=1000)] = []
    meter_logs: Annotated[list[LogTrace], Field(max_length=200)] = []
    photographs: Annotated[list[Photograph], Field(max_length=MOST_PHOTOGRAPHS)] = []


UNSAID = {"Conductor": ("length_m",), "Reading": ("revision", "scenario", "taken_at")}
"""What may be left out and has no figure or name that stands for that: no default a file could give."""


def schema() -> dict[str, Any]:
    """The job file as a JSON Schema, draft 2020-12."""
    made = JobFile.model_json_schema(by_alias=True)
    for name in ("Conductor", "Load"):
        # By its kind an element is told from others: in a file it is never left out.
        made["$defs"][name]["required"].append("kind")
    for name, keys in UNSAID.items():
        for key in keys:
            del made["$defs"][name]["properties"][key]["default"]
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **made}
