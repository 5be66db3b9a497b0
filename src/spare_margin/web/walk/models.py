"""What the API takes and gives of a walk. Numbers are SI."""

from typing import Annotated, Literal

from pydantic import Field

from spare_margin.core.measure.patterns import TerminalPattern
from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.jobs import LoadState, NoteState, Stage
from spare_margin.core.model.pieces import Side
from spare_margin.web.common.figures import Ohms, Share, Volts
from spare_margin.web.common.models import (
    Caution,
    Cell,
    DeviceId,
    FindingOut,
    Foot,
    Model,
    Point,
    SheetQuery,
    Typed,
)
from spare_margin.wording.workings import WorkingLine


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
    on: str
    hold_s: float | None
    expect_low: float | None
    expect_high: float | None
    expect_says: str
    allowed_v: Volts | None
    why: str
    cell: Cell | None
    skipped: str
    within: list[str]
    working: list[WorkingLine]


class SuspectOut(Model):
    """What may be at fault, and how probable that is by the readings."""

    element: str | None
    name: str
    says: str
    probability: Share
    ohm: Ohms | None


class PatternOut(Model):
    """What the load's two terminals show together."""

    code: TerminalPattern
    says: str
    do: str


class MomentOut(Model):
    """The conditions under which the next reading is taken: in one line, and the loads to say it of."""

    says: str
    loads: list[MomentLoad]
    warm: str
    source_v: Volts | None
    source_age_s: float | None
    ask_source: str


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
    ending: str
    ending_says: str
    verdict: Verdict
    verdict_says: str
    suspects: list[SuspectOut]
    suspicion: dict[str, str]
    together: bool
    pattern: PatternOut | None
    foot: Foot
    unaccounted_says: str
    current_says: str
    findings: list[FindingOut]
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
    who: Annotated[str, Field(max_length=120)] = ""


class Pulse(Model):
    """Changes when anything of the job did: what a page asks every second or two."""

    beat: str


class WalkQuery(SheetQuery):
    """Which run is walked, in which scenario, on which stage."""


class StandInForm(Model):
    """What was read with a stand-in load, as typed."""

    run: str
    scenario: str | None = None
    stage: Stage | None = None
    source: Typed = ""
    on_battery: Typed = ""
    amps: Typed = ""
    in_connector: Typed = ""
    return_moved: Typed = ""
    feed_moved: Typed = ""


class StandInOut(Model):
    """What a stand-in load shows; losses at the run's loaded current."""

    says: str
    proves: bool
    leads_v: Volts
    least_ohm: Ohms
    wanted_ohm: Ohms | None
    loop_v: Volts | None
    feed_v: Volts | None
    return_v: Volts | None
    feed_verdict: Verdict
    return_verdict: Verdict
