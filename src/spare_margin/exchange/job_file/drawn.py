"""What a job file says of a wiring, where that is not a record of the core as it stands."""

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from spare_margin.core.model import pieces as core
from spare_margin.core.model.values import Id, Ohm

from .records import FileModel

DrawnKind = Literal[
    "joint", "fuse", "breaker", "switch", "relay_contact", "body_return", "resistor"
]


@dataclass(frozen=True, slots=True, kw_only=True)
class FixedPiece(core.FixedPiece):
    """Anything whose resistance does not come by the metre."""

    kind: DrawnKind


@dataclass(frozen=True, slots=True, kw_only=True)
class UnknownStretch(core.Piece):
    """A stretch that nobody has drawn: no figures wanted, `guess_ohm` may be given."""

    kind: Literal["unknown"]
    guess_ohm: Ohm | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Load(core.Load):
    """What the volts are for; a side may be named, as of every element, and means nothing."""

    side: core.Side | None = None


AnyElement = Annotated[
    core.Conductor | FixedPiece | UnknownStretch | Load, Field(discriminator="kind")
]


class Wiring(FileModel):
    """Everything drawn: what a revision holds."""

    reference: Id | None = None
    nodes: Annotated[list[core.TestPoint], Field(min_length=2, max_length=20000)]
    sources: Annotated[list[core.Source], Field(min_length=1, max_length=100)]
    elements: Annotated[list[AnyElement], Field(max_length=20000)]
    scenarios: Annotated[list[core.Scenario], Field(min_length=1, max_length=200)]


PartList = Literal["nodes", "sources", "elements", "scenarios"]
Ids = Annotated[list[Id], Field(max_length=20000)]


class WiringChanges(FileModel):
    """What a revision has otherwise than another: of its lists the parts that are new or changed.

    `gone` are ids that are no more, by list; `order` all ids of a list, where they do not stand as they did
    with the new ones behind.
    """

    base: Id = Field(alias="from")
    reference: Id | None = None
    nodes: Annotated[list[core.TestPoint], Field(max_length=20000)] = []
    sources: Annotated[list[core.Source], Field(max_length=100)] = []
    elements: Annotated[list[AnyElement], Field(max_length=20000)] = []
    scenarios: Annotated[list[core.Scenario], Field(max_length=200)] = []
    gone: dict[PartList, Ids] = {}
    order: dict[PartList, Ids] = {}
