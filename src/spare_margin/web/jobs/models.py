"""What the API gives of the list of jobs. Numbers are SI."""

from typing import Literal

from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.jobs import Stage
from spare_margin.core.model.pieces import CraftKind
from spare_margin.web.common.figures import Volts
from spare_margin.web.common.models import Model, WrongField


class ListedJob(Model):
    """A job as it stands in the list of jobs."""

    id: str
    title: str
    complaint: str
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
    """All jobs, and those that are put away."""

    jobs: list[ListedJob]
    put_away: list[ListedJob]
    cautions: list[str]


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
    """A system of conductor sizes, thinnest first, and the finishes it comes in."""

    system: str
    sizes: list[str]
    finishes: list[str]


class Choices(Model):
    """What the inspector offers: sizes by system, styles and ratings by kind."""

    sizes: list[SizeSystem]
    styles: dict[str, list[str]]
    fuse_ratings: dict[str, list[float]]
