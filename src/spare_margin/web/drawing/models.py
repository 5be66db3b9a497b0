"""What the API takes and gives while a craft is drawn up. Numbers are SI."""

from typing import Annotated, Literal

from pydantic import Field

from spare_margin.core.edit.charging import ChargerKind
from spare_margin.core.edit.one_load import LoadKind
from spare_margin.core.model.jobs import Stage
from spare_margin.core.model.pieces import (
    Battery,
    CraftKind,
    Polarity,
)
from spare_margin.core.model.values import AsTyped, Called
from spare_margin.service.drawing.scenarios import ScenarioTyped, SourceTyped
from spare_margin.web.common.models import Model, as_told

Words = Annotated[str, Field(max_length=2000)]
RunLine = Annotated[str, Field(max_length=20_000)]
Nominal = Literal[12, 24, 48]


class NewJob(Model):
    """A job from nothing; `capacity` in Ah as typed, may be empty.

    With a `template` it begins with that craft: what is said of the craft itself then counts for nothing.
    """

    title: Called
    craft_name: Called = ""
    customer: Called = ""
    craft: CraftKind
    nominal_v: Nominal
    polarity: Polarity
    battery: Battery
    capacity: AsTyped = ""
    clamps: bool = True
    template: Annotated[str, Field(max_length=80)] = ""
    complaint: Words = ""
    when: Words = ""
    conditions: Words = ""


class TemplateOut(Model):
    """A craft that a job may begin from."""

    id: str
    name: str
    made_at: str


class TemplateList(Model):
    """Every template, by name."""

    templates: list[TemplateOut]


class SaveTemplate(Model):
    """Save the wiring of a stage as a template."""

    name: Called
    stage: Stage


class CheckLoad(Model):
    """One load to be checked, of whose wiring nobody knows anything yet.

    `name` may be that of a load of the workshop's table, whose figures it then has.
    """

    name: Called
    nominal_v: Nominal = 12
    what: LoadKind = "other"
    craft: CraftKind = "other"
    battery: Battery = "flooded"
    craft_name: Called = ""
    customer: Called = ""
    complaint: Words = ""


class Checked(Model):
    """The job of a load that is checked, and the run to walk."""

    id: str
    run: str


class NewSource(Model):
    """A second source, which charges the battery; `volts` as typed."""

    stage: Stage
    revision: str
    kind: ChargerKind
    name: Called
    volts: AsTyped = ""


class Details(Model):
    """What a job says of itself; keys that are not given stay as they are."""

    title: Called | None = None
    craft_name: Called | None = None
    customer: Called | None = None
    complaint: Words | None = None
    when: Words | None = None
    conditions: Words | None = None
    limit_set: str | None = None
    craft: CraftKind | None = None
    nominal_v: Nominal | None = None
    polarity: Polarity | None = None


class DetailsKept(Model):
    """The stages whose wiring the change of details changed too, so that it can be undone."""

    stages: list[Stage]


class Drawing(Model):
    """A change of the drawing, at one stage, on the revision that was on screen; see Change."""

    stage: Stage
    revision: str
    correct: bool = False


class LineText(Model):
    """A run line so far, where the caret is, and the stage whose test points it may meet."""

    text: RunLine
    caret: Annotated[int, Field(strict=True, ge=0, le=20_000)] = 0
    stage: Stage | None = None


class Understood(Model):
    """A stretch of the text, and what it was understood as."""

    start: int
    end: int
    what: Literal["point", "piece", "load"]
    says: str
    new: bool


class LineTrouble(Model):
    """A stretch of the text that is wrong."""

    start: int
    end: int
    problem: str
    accepted: str


class Completion(Model):
    """What could stand at the caret, in place of `start` to `end`."""

    text: str
    says: str


class ReadText(Model):
    """A run line as it was understood, and what could come next."""

    understood: list[Understood]
    errors: list[LineTrouble]
    completions: list[Completion]
    start: int
    end: int


class DrawLine(Drawing):
    """A line to draw; with `run`, in place of that run as it is drawn."""

    text: RunLine
    run: str | None = None


class MoveColumn(Drawing):
    """One column of a run: put one in behind `piece`, move it, take it out."""

    run: str
    action: Literal["insert", "earlier", "later", "remove"]
    piece: str | None = None
    text: RunLine = ""


class WholeRun(Drawing):
    """One run: a second one like it, or take it out."""

    run: str
    action: Literal["copy", "remove"]


as_told(ScenarioTyped)
as_told(SourceTyped)


class ScenarioChange(Drawing):
    """Keep a scenario (a new one without `id`), copy it, or take it out. It counts on every stage."""

    action: Literal["keep", "copy", "remove"]
    id: str | None = None
    form: ScenarioTyped | None = None


class Drawn(Model):
    """What was drawn: the stage it was drawn on, the run (or scenario) it made, in a sentence.

    `stages` are all that have it now: undoing it undoes each.
    """

    stage: Stage
    stages: list[Stage]
    made: str | None
    said: str
