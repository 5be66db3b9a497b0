"""What a job file says of a wiring: points, sources, elements, scenarios."""

from typing import Annotated, Literal

from pydantic import Field, TypeAdapter

from spare_margin.core.model import pieces as core

from .bounds import Amperes, Celsius, FileModel, Id, Metres, Name, Ohm, Volts


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


PartList = Literal["nodes", "sources", "elements", "scenarios"]
Ids = Annotated[list[Id], Field(max_length=20000)]


class WiringChanges(FileModel):
    """What a revision has otherwise than another: of its lists the parts that are new or changed.

    `gone` are ids that are no more, by list; `order` all ids of a list, where they do not stand as they did
    with the new ones behind.
    """

    base: Id = Field(alias="from")
    reference: Id | None = None
    nodes: Annotated[list[Node], Field(max_length=20000)] = []
    sources: Annotated[list[Source], Field(max_length=100)] = []
    elements: Annotated[list[AnyElement], Field(max_length=20000)] = []
    scenarios: Annotated[list[Scenario], Field(max_length=200)] = []
    gone: dict[PartList, Ids] = {}
    order: dict[PartList, Ids] = {}


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
