"""What the API gives of the list of jobs. Numbers are SI."""

from typing import Annotated, Literal

from pydantic import Field

from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.jobs import Stage
from spare_margin.core.model.pieces import CraftKind
from spare_margin.store.records import State
from spare_margin.web.common.figures import Volts
from spare_margin.web.common.models import Model, WrongField

Day = Annotated[str, Field(pattern=r"^(\d{4}-\d\d-\d\d)?$")]


class KindChoice(Model):
    """A kind of piece to look for, in the interface's words."""

    id: str
    name: str


class JobsQuery(Model):
    """Which jobs: words that must stand in them, and what narrows them further; `start` pages on."""

    words: Annotated[str, Field(max_length=200)] = ""
    craft: Annotated[str, Field(max_length=200)] = ""
    customer: Annotated[str, Field(max_length=200)] = ""
    kind: Annotated[str, Field(max_length=100)] = ""
    fault: Annotated[str, Field(max_length=100)] = ""
    state: State | Literal[""] = ""
    since: Day = ""
    until: Day = ""
    away: Literal["no", "yes", "any"] = "no"
    start: Annotated[int, Field(ge=0, le=1_000_000)] = 0


class ListedJob(Model):
    """A job as it stands in the list of jobs; `waiting` where its figures are not worked out yet."""

    id: str
    title: str
    craft_name: str
    customer: str
    complaint: str
    made_at: str
    away: bool
    fault: str
    state: State | None
    waiting: bool
    craft: CraftKind
    nominal_v: float
    run_count: int
    reading_count: int
    stage: Stage
    focus_run: str | None
    focus_name: str
    spare_v: Volts | None
    verdict: Verdict
    measured: bool
    trouble: str


class JobList(Model):
    """A page of jobs, how many there are, how many are put away, and how many wait to be worked out."""

    jobs: list[ListedJob]
    total: int
    put_away: int
    waiting: int
    kinds: list[KindChoice]
    cautions: list[str]


class EventOut(Model):
    """Something that was done to a job: when, by whom, what."""

    at: str
    code: str
    who: str
    says: str


class Timeline(Model):
    """Everything that was done to a job, the oldest first."""

    job: str
    title: str
    craft_name: str
    events: list[EventOut]


class PreviewRun(Model):
    """A run a job file would bring in."""

    name: str
    piece_count: int
    spare_v: Volts | None


class KnownJob(Model):
    """The job here that a file is of, and what bringing it in could do."""

    job: str
    relation: Literal["same", "newer", "older", "different"]
    says: str


class HowQuery(Model):
    """What to do with a file of a job that is here: another job, or what only the file has added to it."""

    how: Literal["copy", "merge"] = "copy"


class Preview(Model):
    """What a job file holds. It can be imported when `errors` is empty."""

    title: str
    craft: str
    nominal_v: float | None
    complaint: str
    runs: list[PreviewRun]
    reading_count: int
    notices: list[str]
    known: KnownJob | None
    errors: list[WrongField]


class SizeSystem(Model):
    """A system of conductor sizes: what they are called, thinnest first, and the finishes it comes in."""

    system: str
    sizes: list[str]
    finishes: list[str]


class Choices(Model):
    """What the inspector offers: sizes by system, styles and ratings by kind."""

    sizes: list[SizeSystem]
    styles: dict[str, list[str]]
    fuse_ratings: dict[str, list[str]]
