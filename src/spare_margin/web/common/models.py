"""What the API takes and gives. Numbers are SI: V, A, ohm, m, W, degrees C."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from spare_margin.core.measure.findings import FindingCode
from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.jobs import Hold, LoadState, Quantity, ReadingState, Stage
from spare_margin.core.model.pieces import Access, CraftKind, Duty, LoadLaw, Polarity, Repair, Side
from spare_margin.core.walk.cautions import CautionId
from spare_margin.wording.workings import WorkingLine

Typed = Annotated[str, Field(max_length=200)]
PieceKind = Literal[
    "conductor", "joint", "fuse", "breaker", "switch", "relay_contact", "body_return", "resistor",
    "unknown",
]  # fmt: skip


class Model(BaseModel):
    """Every answer has all its keys; requests may not have others."""

    model_config = ConfigDict(extra="forbid")


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


# The list of jobs


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
    spare_v: float | None
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
    spare_v: float | None


class Preview(Model):
    """What a job file holds. It can be imported when `errors` is empty."""

    title: str
    craft: str
    nominal_v: float | None
    complaint: str
    runs: list[PreviewRun]
    reading_count: int
    notices: list[str]
    errors: list[WrongField]


class Created(Model):
    """The id of what was made."""

    id: str


# The run sheet


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


class Cell(Model):
    """A measured span. `loaded_v` is at the loaded current, `doubt_v` its half-width; `ohm` is V / I with
    its half-width; `direct` is false for a difference."""

    reading: str | None
    typed: str
    state: ReadingState
    volts: float | None
    accuracy_v: float | None
    loaded_v: float | None
    doubt_v: float | None
    ohm: float | None
    ohm_doubt: float | None
    spare_v: float | None
    verdict: Verdict
    direct: bool
    set_aside: bool
    taken_at: str | None
    findings: list[FindingOut]
    working: list[WorkingLine]


class PieceForm(Model):
    """A piece's own figures as a person would type them; empty where the tables rule."""

    kind: PieceKind
    name: str
    length: str
    size: str
    resistance: str
    style: str
    rating: str
    insulation: str
    engine_space: bool
    open: bool
    repair: Repair | None
    pinned: str


class Column(Model):
    """One piece of the run, in the order the current passes."""

    id: str
    kind: PieceKind
    name: str
    full_name: str
    side: Side
    spec: str
    entry: Point
    exit: Point
    group: int | None
    beside: bool
    current_a: float
    resistance_ohm: float | None
    temperature_c: float | None
    power_w: float
    allowance_v: float
    allowance_why: str
    ruled_by: str
    predicted_v: float
    spare_v: float
    predicted_verdict: Verdict
    shared_with: list[str]
    found: Cell | None
    left: Cell | None
    change: str
    working: list[WorkingLine]
    form: PieceForm


class SideOut(Model):
    """One side of the run against its ceiling."""

    side: Side
    start: Point
    end: Point
    ceiling_v: float | None
    predicted_v: float
    spare_v: float | None
    predicted_verdict: Verdict
    found: Cell | None
    left: Cell | None
    eaten: str


class Foot(Model):
    """The account: source = feed + load + return + unaccounted. None is not known."""

    basis: Literal["predicted", "as_found", "as_left"]
    source_v: float | None
    feed_v: float | None
    load_v: float | None
    return_v: float | None
    unaccounted_v: float | None
    closes: bool | None
    by_difference: list[str]


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
    foot: Foot


class LoadForm(Model):
    """A load's figures as a person would type them."""

    name: str
    behaviour: LoadLaw | None
    current: str
    resistance: str
    power: str
    rated: str
    least: str
    start: str
    duty: Duty
    critical: bool


class LoadOut(Model):
    """The load in the middle of the run."""

    id: str
    name: str
    spec: str
    on: bool
    current_a: float
    power_w: float
    volts: float
    least_v: float | None
    drops_out: bool
    works: str
    feed: Point
    back: Point
    form: LoadForm


class SourceOut(Model):
    """The source of the run."""

    id: str
    name: str
    live: Point
    back: Point
    volts: float
    open_circuit_v: float
    internal_ohm: float


class HeadroomOut(Model):
    """How much more until the first ceiling. None: no bound within reason."""

    amperes: float | None
    amperes_until: str
    metres: float | None
    metres_until: str


class ScenarioVolts(Model):
    """What the load gets in a scenario with the craft as measured; None where it drops out."""

    scenario: str
    name: str
    load_v: float | None
    spare_v: float | None


class AsMeasured(Model):
    """The run by the craft as measured: what it does in every scenario, and in the worst of them."""

    stage: Stage
    worst: str
    scenarios: list[ScenarioVolts]
    moments: list[str]
    amps: float | None
    amps_doubt: float | None


class RunOut(Model):
    """The open run."""

    load: LoadOut
    source: SourceOut
    columns: list[Column]
    sides: list[SideOut]
    spare_v: float | None
    spare_share: float | None
    spare_under: str
    basis: Literal["predicted", "as_found", "as_left"]
    load_v: float | None
    round_trip_ceiling_v: float | None
    verdict: Verdict
    verdict_says: str
    headroom: HeadroomOut
    measured: AsMeasured | None
    found: PassOut
    left: PassOut
    predicted: Foot
    working: list[WorkingLine]
    text: str


class RunInList(Model):
    """A run beside the sheet."""

    id: str
    name: str
    on: bool
    spare_v: float | None
    spent_share: float | None
    verdict: Verdict
    measured: bool


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


class LoadSwitch(Model):
    """A load as a toggle."""

    id: str
    name: str
    on: bool
    current_a: float


class Caution(Model):
    """A caution that belongs to what is on screen."""

    id: CautionId
    when: str
    says: str


class Sheet(Model):
    """Everything on a run sheet."""

    job: str
    title: str
    complaint: str
    complaint_when: str
    complaint_conditions: str
    craft: CraftKind
    nominal_v: float
    polarity: Polarity
    limit_set: str
    limit_set_id: str
    limit_why: str
    stage: Stage
    revision: str
    stages: list[StageOut]
    can_undo: bool
    can_redo: bool
    scenario: str
    scenarios: list[ScenarioOut]
    loads: list[LoadSwitch]
    toggled: bool
    runs: list[RunInList]
    run: RunOut
    trouble: str
    notices: list[str]
    cautions: list[Caution]
    meter: str


class NamedChoice(Model):
    """One of several to choose from, and why."""

    id: str
    name: str
    why: str


class SourceStateForm(Model):
    """What a scenario changes in a source, as typed; empty keeps the source's own."""

    id: str
    open_circuit: Typed = ""
    internal: Typed = ""


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


# Requests


class SheetQuery(Model):
    """Which run, scenario and stage to show; `on` replaces the scenario's loads (ids, by commas)."""

    run: str | None = None
    scenario: str | None = None
    stage: Stage | None = None
    on: str | None = None


class Edit(Model):
    """New figures for one element, as typed; keys that are not given stay as they are."""

    name: Typed | None = None
    kind: PieceKind | None = None
    length: Typed | None = None
    size: Typed | None = None
    resistance: Typed | None = None
    style: Typed | None = None
    rating: Typed | None = None
    insulation: Typed | None = None
    engine_space: bool | None = None
    pinned: Typed | None = None
    open: bool | None = None
    repair: Repair | Literal["none"] | None = None
    behaviour: LoadLaw | None = None
    current: Typed | None = None
    power: Typed | None = None
    rated: Typed | None = None
    least: Typed | None = None
    start: Typed | None = None
    duty: Duty | None = None
    critical: bool | None = None
    open_circuit: Typed | None = None
    internal: Typed | None = None


class Change(Model):
    """A change of the wiring: one element, at one stage, on the revision that was on screen.

    With `correct`, the drawing as found was wrong; otherwise, once something was measured as
    found, a change there becomes part of the plan. With `keep` false nothing is kept: a what-if.
    """

    stage: Stage
    revision: str
    element: str
    edit: Edit
    correct: bool = False
    keep: bool = True
    view: SheetQuery = SheetQuery()


class UndoRedo(Model):
    """Undo or redo on one stage."""

    stage: Stage
    direction: Literal["undo", "redo"]
    view: SheetQuery = SheetQuery()


class Undone(Model):
    """What was undone or redone, and the sheet as it is now; none where no run is left."""

    said: str
    stage: Stage
    sheet: Sheet | None


class NewReading(Model):
    """A reading as typed. The id is made on the device, so that sending twice keeps it once.

    `source` is the source read with it, `warm` minutes that the load had been on. A reading that had
    to wait says on which `revision` it was taken, and how long it `waited_s` by the device's own
    clock: whatever that clock is set to, the time it was taken comes out right.
    """

    id: Annotated[str, Field(pattern=r"^[A-Za-z0-9_.+-]{8,64}$")]
    stage: Literal["as_found", "as_left"]
    scenario: str
    quantity: Quantity = "volts"
    red: str
    black: str
    typed: Typed
    supersedes: str | None = None
    note: Annotated[str, Field(max_length=2000)] = ""
    source: Typed = ""
    hold: Hold = ""
    warm: Typed = ""
    who: Annotated[str, Field(max_length=120)] = ""
    revision: str | None = None
    waited_s: Annotated[float, Field(ge=0, le=31_536_000)] = 0.0
    states: dict[str, LoadState] | None = None
    charging: bool | None = None
    view: SheetQuery = SheetQuery()


class KeptReading(Model):
    """How a reading was understood, and the sheet with it."""

    id: str
    understood: str
    sheet: Sheet


class Finish(Model):
    """The repair is done: the plan becomes the wiring as left."""

    view: SheetQuery = SheetQuery()
