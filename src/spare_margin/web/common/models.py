"""What the API takes and gives everywhere. Numbers are SI: V, A, ohm, m, W, degrees C."""

from contextvars import ContextVar
from dataclasses import replace
from typing import Annotated, Any, Generic, Literal, TypeVar

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, RootModel, with_config

from spare_margin.core.measure.findings import FindingCode
from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.jobs import Quantity, ReadingState, Stage
from spare_margin.core.model.pieces import Access
from spare_margin.core.protection.checks import Code
from spare_margin.web.common.figures import Ohms, Volts
from spare_margin.wording.craft.workings import WorkingLine
from spare_margin.wording.language.figures import Figure

PERSON: ContextVar[str] = ContextVar("PERSON", default="")
"""Whose the paired device is that a request came from; empty at this machine itself."""
Who = Annotated[
    str,
    Field(max_length=120, validate_default=True),
    AfterValidator(lambda said: PERSON.get() or said),
]
"""Who reads: over the network the person of the device, whatever the page says."""


class Model(BaseModel):
    """Every answer has all its keys; requests may not have others."""

    model_config = ConfigDict(extra="forbid")

    @classmethod
    def model_json_schema(cls, *args: Any, **kwargs: Any) -> dict[str, Any]:
        """As pydantic's; without arguments it is made once, for it is asked for at every request."""
        if args or kwargs:
            return super().model_json_schema(*args, **kwargs)
        if cls not in _SCHEMAS:
            _SCHEMAS[cls] = super().model_json_schema()
        return _SCHEMAS[cls]


_SCHEMAS: dict[type[Model], dict[str, Any]] = {}


Value = TypeVar("Value")


class Told(RootModel[Value], Generic[Value]):
    """A request that is a record of the service as it stands there; see `as_told`."""

    def record(self) -> Value:
        """The record; over the network the person of the device said it, whatever the page says."""
        said: Any = self.root
        whose: Value = replace(said, who=PERSON.get() or said.who)
        return whose


class Answer(RootModel[Value], Generic[Value]):
    """An answer that is a value of the service as it stands there."""

    def out(self) -> dict[str, object]:
        """What goes out."""
        return dict(self.model_dump())


as_told = with_config(ConfigDict(extra="forbid"))
"""Tells of a record of the service that a request for it may have no other keys."""


class WrongField(Model):
    """One thing that was wrong: where, what, and what would be accepted."""

    field: str
    problem: str
    accepted: str


class Problem(Model):
    """An error, as RFC 9457 has it."""

    type: str
    title: str
    status: int
    detail: str
    errors: list[WrongField]


class Created(Model):
    """The id of what was made."""

    id: str


class Point(Model):
    """A test point."""

    id: str
    name: str
    access: Access


class FindingOut(Model):
    """What a check says of a reading or a pass, and what to do."""

    code: FindingCode
    says: str
    do: str
    readings: list[str]
    piece: str | None


class ToldReading(Model):
    """A reading by its figure and its place, as whoever typed it would know it again."""

    reading: str
    says: str
    quantity: Quantity
    red: str
    black: str
    scenario: str


class Cell(Model):
    """A measured span. `loaded_v` is at the loaded current, `doubt_v` its half-width; `ohm` is V / I with
    its half-width; `direct` is false for a difference."""

    reading: str | None
    typed: str
    state: ReadingState
    volts: Volts | None
    accuracy_v: float | None
    loaded_v: Volts | None
    doubt_v: float | None
    measured: Figure | None
    spare_v: Volts | None
    verdict: Verdict
    direct: bool
    set_aside: bool
    taken_at: str | None
    findings: list[FindingOut]
    working: list[WorkingLine]


class Foot(Model):
    """The account: source = feed + load + return + unaccounted. None is not known.

    `holds` names, by side, what there is fitted to take volts: another load in series, a resistor.
    """

    basis: Literal["predicted", "as_found", "as_left"]
    source_v: Volts | None
    feed_v: Volts | None
    load_v: Volts | None
    return_v: Volts | None
    unaccounted_v: Volts | None
    closes: bool | None
    by_difference: list[str]
    holds: dict[str, str]


class PassOut(Model):
    """What one pass of readings says of the run."""

    stage: Stage
    revision: str
    source: Cell | None
    load: Cell | None
    current: Cell | None
    verdict: Verdict
    says: str
    guilty: str | None
    findings: list[FindingOut]
    doubted: list[ToldReading]
    foot: Foot


class ProtectionOut(Model):
    """What is wrong with a fuse, or with what it should protect, and what to do; `act` in a few words."""

    code: Code
    act: str
    says: str
    do: str
    piece: str


class SourceValues(Model):
    """A source's own figures as a person would type them."""

    open_circuit: str
    internal: str


class SourceOut(Model):
    """The source of the run."""

    id: str
    name: str
    live: Point
    back: Point
    volts: Volts
    open_circuit_v: Volts
    internal_ohm: Ohms
    form: SourceValues


class StageOut(Model):
    """A stage the job has, and what was changed in it against as found."""

    stage: Stage
    revision: str
    changes: list[str]


class ScenarioOut(Model):
    """A scenario, and the loads it has on."""

    id: str
    name: str
    on: list[str]


class NamedChoice(Model):
    """One of several to choose from, and why."""

    id: str
    name: str
    why: str


class SheetQuery(Model):
    """Which run, scenario and stage to show; `on` replaces the scenario's loads (ids, by commas)."""

    run: str | None = None
    scenario: str | None = None
    stage: Stage | None = None
    on: str | None = None
