"""What the API takes and gives of a walk. Numbers are SI."""

from typing import Annotated, Literal

from pydantic import Field

from spare_margin.core.edit.splitting import Place
from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.jobs import (
    LoadState,
    NoteState,
    Quantity,
    Stage,
)
from spare_margin.core.model.pieces import Access, ContactState, PieceKind, Side
from spare_margin.core.model.values import AsTyped, DeviceId
from spare_margin.core.practice.lessons import LessonId
from spare_margin.core.walk.walk import After
from spare_margin.service.readings.standing_in import StoodIn
from spare_margin.service.readings.trying import Tried
from spare_margin.web.common.figures import Ohms, Share, Volts
from spare_margin.web.common.loop import LoopOut
from spare_margin.web.common.models import (
    Cell,
    FindingOut,
    Foot,
    Model,
    Point,
    SheetQuery,
    Told,
    ToldReading,
    Who,
    as_told,
)
from spare_margin.wording.craft.workings import WorkingLine
from spare_margin.wording.measured.cautions import Caution


class MomentLoad(Model):
    """A load of the scenario, and how it is meant to be while something is read."""

    id: str
    name: str
    state: LoadState


class Guard(Model):
    """A caution that must be taken note of before the walk goes on."""

    id: str
    caution: Caution
    acknowledged: bool


class Bar(Model):
    """The scale a reading lands on as it is typed, V or A: its ends, what is good of it, what is likely."""

    least: float
    most: float
    good_from: float
    good_to: float
    likely: float | None


class Means(Model):
    """What was typed means by itself: as it was understood, in a sentence, and whether that is good."""

    value: float | None
    says: str
    good: bool | None


class SplitOut(Model):
    """A stretch that holds the trouble: where it can be touched in between is asked."""

    piece: str
    step: str
    says: str
    side: Side


class TrialOut(Model):
    """What was tried out, and what came of it."""

    id: str
    says: str


class HoleOut(Model):
    """A hole of a relay's socket: what it reads with the relay out, and in; its test point, if drawn."""

    hole: str
    out: str
    fitted: str
    point: str | None


class SweptOut(Model):
    """A point of the sweep at rest: where it should stand, what was read there, whether that is as it
    should be."""

    point: Point
    should: str
    typed: str
    reading: str | None
    good: bool | None


class ContactOut(Model):
    """A switch, breaker or relay contact on the run, and how it stands in the scenario."""

    id: str
    name: str
    kind: PieceKind
    state: ContactState


class AtRestOut(Model):
    """The sweep at rest, one lead parked on a post, and what it comes to."""

    parked: Point
    contacts: list[ContactOut]
    points: list[SweptOut]
    says: list[str]


class FreePoint(Model):
    """A test point of one's own, anywhere on the craft."""

    stage: Stage
    revision: str
    name: Annotated[str, Field(max_length=120)]


class Seen(Model):
    """What was seen or heard, when and by whom."""

    id: str
    says: str
    at: str
    who: str


class Card(Model):
    """One measurement: where each lead goes and how, what to expect, what is allowed."""

    id: str
    kind: Literal["source", "current", "load", "side", "span"]
    title: str
    red: Point
    black: Point
    red_how: str
    black_how: str
    side: Side | None
    range: str
    range_v: Volts | None
    most_v: Volts | None
    on: str
    hold_s: float | None
    expect_low: float | None
    expect_high: float | None
    expect_says: str
    allowed_v: Volts | None
    bar: Bar | None
    why: str
    coach: str
    lesson: LessonId
    cell: Cell | None
    skipped: str
    within: list[str]
    working: list[WorkingLine]


class SuspectOut(Model):
    """What is at fault by the readings (`found`), or may be, and how probable that is."""

    element: str | None
    name: str
    says: str
    probability: Share
    ohm: Ohms | None
    found: bool


class MomentOut(Model):
    """The conditions under which the next reading is taken: in one line, and the loads to say it of."""

    says: str
    loads: list[MomentLoad]
    contacts: list[ContactOut]
    warm: str
    source_v: Volts | None
    source_age_s: float | None
    asks_rpm: bool


class NextStep(Model):
    """The one thing to do next once a walk has ended."""

    act: After
    says: str


class WalkOut(Model):
    """A walk as it stands: cautions first, cards done, the one that is next, or why it ended."""

    job: str
    title: str
    run: str
    run_name: str
    runs: list[Point]
    stage: Stage
    scenario: str
    scenario_name: str
    revision: str
    refused: str
    guards: list[Guard]
    done: list[Card]
    skipped: list[Card]
    now: Card | None
    split: SplitOut | None
    loop: LoopOut
    socket: list[HoleOut]
    trials: list[TrialOut]
    seen: list[Seen]
    ending: str
    ending_says: str
    rests_on: str
    after: NextStep | None
    verdict: Verdict
    verdict_says: str
    suspects: list[SuspectOut]
    suspicion: dict[str, str]
    foot: Foot
    unaccounted_says: str
    findings: list[FindingOut]
    doubted: list[ToldReading]
    beside: list[ToldReading]
    cautions: tuple[Caution, ...]
    meter: str
    moment: MomentOut
    points: list[Point]


class Noted(Model):
    """A caution noted, a step skipped or taken up again, an order step ticked; the device makes the id."""

    id: DeviceId
    stage: Stage
    run: str
    step: Annotated[str, Field(max_length=200)]
    state: NoteState
    reason: Annotated[str, Field(max_length=2000)] = ""
    who: Who = ""


class Pulse(Model):
    """Changes when anything of the job did: what a page asks every second or two."""

    beat: str


class WalkQuery(SheetQuery):
    """Which run is walked, in which scenario, on which stage."""


class AtRestQuery(WalkQuery):
    """The sweep at rest; `contact` is the one that keeps the load off, where one does.

    For the feed black stays on the return post, for the return red stays on the live one.
    """

    contact: str | None = None
    side: Side = "feed"


class CardQuery(SheetQuery):
    """Any two points as a card."""

    red: str
    black: str
    quantity: Quantity = "volts"


class MeansQuery(CardQuery):
    """What was typed for a measurement so far."""

    typed: AsTyped


class SplitForm(Model):
    """Where a stretch can be touched: at a fuse, a plug ..., or at a point of one's own name."""

    stage: Stage
    revision: str
    run: str
    piece: str
    place: Place
    name: Annotated[str, Field(max_length=100)] = ""
    access: Access = "open"


class SplitDone(Model):
    """The test points that a split made, in the current's order."""

    points: tuple[str, ...]


as_told(Tried)


class TrialForm(Told[Tried]):
    """A trial as it was told."""


class TrialKept(Model):
    """The trial that was kept."""

    id: str


as_told(StoodIn)


class StandInForm(Told[StoodIn]):
    """A reading across a stand-in load, as typed."""


class BulbOut(Model):
    """A usual bulb, and whether it draws enough to prove the run."""

    says: str
    amps: str
    enough: bool


class StoodInOut(Model):
    """What was read across a stand-in load."""

    reading: str
    says: str


class StandInOut(Model):
    """Which stand-in load suits a run, how it is done there, and what stood in so far."""

    says: str
    how: str
    next: str
    bulbs: list[BulbOut]
    read: list[StoodInOut]
