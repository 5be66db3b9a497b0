"""A job: a craft somebody complains about, with its readings."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from spare_margin.core.model.limits import Ceilings
from spare_margin.core.model.pieces import ContactState, Craft
from spare_margin.core.model.values import (
    Amperes,
    AsTyped,
    Id,
    IdOrNone,
    Minutes,
    Name,
    Seconds,
    SignedVolts,
    Text,
    Time,
    TimeOrNone,
    Title,
    ZeroOrVolts,
)

Stage = Literal["as_found", "planned", "as_left"]
MeasuredStage = Literal["as_found", "as_left"]
"""A stage that readings are taken on."""
STAGES: tuple[Stage, ...] = ("as_found", "planned", "as_left")
Quantity = Literal["volts", "amperes", "ohms", "kelvin", "ripple", "lamp"]
LoadState = Literal["unplugged", "off", "running", "attempted", "starting"]
TrialKind = Literal["bridge", "feed", "return"]
Outcome = Literal["right", "partly", "none"]
Hold = Literal["", "least", "most"]
Action = Literal[
    "changed", "corrected", "drawn", "imported", "copied", "finished", "scenario", "source"
]
LogQuantity = Literal["volts", "amperes", "kelvin", "other"]
LogSegmentKind = Literal["off", "start", "steady", "change", "quiet"]
LogFigure = Literal["mean", "least", "most"]
SignedBy = Literal["fitter", "customer"]
ProofOutcome = Literal["passed", "failed", "open"]
"""What a proof came to: failed where a condition does not hold, open where one is not known yet."""
NoteState = Literal["acknowledged", "skipped", "back", "seen"]
ReadingState = Literal[
    "value", "over_range", "wandering", "not_reachable", "withdrawn", "lit", "dim", "dark"
]
"""Why there is no number, or that there is one; of a test lamp how it burned."""


@dataclass(frozen=True, slots=True)
class Complaint:
    """What is wrong, in the words of whoever brought the craft, when, and under which conditions."""

    what: Text = ""
    when: Text = ""
    conditions: Text = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class LogWindow:
    """The window of a meter's log that a reading was taken from (s), and which figure of it."""

    log: Id
    channel: Annotated[int, Ge(0), Le(100)]
    figure: LogFigure
    start_s: Seconds
    end_s: Seconds


MOST_TRACE = 64
"""Samples of a figure's trace that are kept."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceFigure:
    """What the meter that stayed on the source showed at the same instant.

    `name`, `spec`, `samples` and `spread` (V) as of MeterFigure; `accuracy` (V) is its own doubt.
    """

    name: Name
    spec: Annotated[str, MaxLen(400)] = ""
    typed: AsTyped
    samples: Annotated[int, Ge(1), Le(10_000)] = 1
    spread: ZeroOrVolts = 0.0
    accuracy: ZeroOrVolts = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class MeterFigure:
    """A figure that a meter gave by itself, and stood by.

    `name` is what the meter is called here, `spec` its row in the table of meters. It showed `samples`
    figures in `seconds`, from the least to the most of which it is `spread`, on a range up to `range_to`
    (the reading's unit, as is `shown`: what it showed so many seconds after the first, `at_s`). `source` is
    what a second meter showed meanwhile, left on the source.
    """

    name: Name
    spec: Annotated[str, MaxLen(400)] = ""
    samples: Annotated[int, Ge(1), Le(10_000)]
    spread: Annotated[float, Ge(0), Le(1e7)] = 0.0
    seconds: Seconds = 0.0
    range_to: Annotated[float, Ge(0), Le(1e9)] | None = None
    at_s: Annotated[tuple[Seconds, ...], MaxLen(MOST_TRACE)] = ()
    shown: Annotated[tuple[Annotated[float, Ge(-1e9), Le(1e9)], ...], MaxLen(MOST_TRACE)] = ()
    source: SourceFigure | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """One reading of a meter with its leads on two points, or a current through a piece.

    `value` is V (red against black; of a ripple its AC part), A, or K above the cable beside it; None
    where `state` says why there is no number. `hold` is a minimum or maximum that the meter held, as
    over a motor's start; `warm_min` how long the load had been on.
    `accuracy` is the half-width (same unit) within which the truth lies. A correction names in
    `supersedes` the reading it replaces; nothing is ever changed or deleted. `scenario` says
    what was on, `revision` which wiring it was taken on; `taken_at` is UTC, ISO 8601: these three are empty
    only while a file is read that leaves them out. `source_v` is a source reading taken with it. `moment`
    names the conditions it was taken under, `trial` what was changed for it; ohms are with the power
    off, `leads_ohm` of them the leads' own. `window` is that of a meter's log it was taken from,
    `moved` the piece that was moved while the meter held its least or most; `by_meter` is what a meter
    gave by itself where nobody typed it.
    """

    id: Id
    revision: Id = ""
    moment: Id | None = None
    trial: Id | None = None
    quantity: Quantity = "volts"
    red: Id
    black: Id
    value: Annotated[float, Ge(-1e7), Le(1e7)] | None = None
    state: ReadingState = "value"
    typed: Annotated[str, MaxLen(200)] = ""
    accuracy: Annotated[float, Ge(0), Le(1e7)] = 0.0
    leads_ohm: Annotated[float, Ge(0), Le(100)] = 0.0
    scenario: Id = ""
    taken_at: Time = ""
    supersedes: Id | None = None
    source_v: SignedVolts | None = None
    note: Text = ""
    meter: Annotated[str, MaxLen(400)] = ""
    hold: Hold = ""
    moved: IdOrNone = ""
    warm_min: Minutes | None = None
    who: Name = ""
    window: LogWindow | None = None
    by_meter: MeterFigure | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class LogChannel:
    """A channel of a meter's log: what it measured, and between which points (empty: nobody said).

    `meter` is the row of the table of meters that it was read with (empty: the workshop's).
    """

    name: Name
    quantity: LogQuantity
    red: str = ""
    black: str = ""
    meter: Annotated[str, MaxLen(400)] = ""


@dataclass(frozen=True, slots=True)
class LogSegment:
    """A stretch of a log: the load off, starting, steady; or a watched figure changed, or was quiet (s).

    `moved` is the piece that was moved meanwhile (empty: nobody said).
    """

    kind: LogSegmentKind
    start_s: Seconds
    end_s: Seconds
    moved: IdOrNone = ""


Shown = Annotated[float, Ge(-1e9), Le(1e9)]
"""What a channel showed, in its unit."""
Traced = Annotated[tuple[Shown | None, ...], MaxLen(5000)]


@dataclass(frozen=True, slots=True, kw_only=True)
class LogTrace:
    """What is kept of a meter's log: least and most of every channel from one of `seconds` to the next.

    None where a channel showed nothing; `segments` are what was found in it.
    """

    id: Id
    made_at: Time
    started_at: Time | None = None
    duration_s: Seconds
    row_count: Annotated[int, Ge(0), Le(100_000_000)]
    name: Annotated[str, MaxLen(200)]
    channels: Annotated[tuple[LogChannel, ...], MaxLen(100)]
    seconds: Annotated[tuple[Seconds, ...], MaxLen(5000)]
    least: Annotated[tuple[Traced, ...], MaxLen(100)]
    most: Annotated[tuple[Traced, ...], MaxLen(100)]
    segments: Annotated[tuple[LogSegment, ...], MaxLen(10000)] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class StandInLoad:
    """A known load hung between two points in place of an unplugged one, and what it draws (A)."""

    start: Id
    end: Id
    amperes: Amperes


@dataclass(frozen=True, slots=True, kw_only=True)
class Moment:
    """The conditions under which readings belong together.

    `loads` are loads that are otherwise than in the scenario, by id; `warm_min` the minutes since
    switching on, `rpm` the engine's speed, `charging` whether a charger runs. With a `stand_in`, the
    `leads_ohm` of a reading are those of its leads, whose drop the reading lacks. `contacts` are switches,
    breakers and relay contacts that were commanded otherwise than in the scenario, by id.
    """

    id: Id
    scenario: Id
    loads: Mapping[Id, LoadState] = field(default_factory=dict)
    warm_min: Minutes | None = None
    rpm: Annotated[float, Ge(0), Le(20000)] | None = None
    charging: bool | None = None
    note: Text = ""
    stand_in: StandInLoad | None = None
    contacts: Mapping[Id, ContactState] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """A change tried out while something is watched: what was joined, and what came of it.

    A bridge joins two points; a feed joins `start` (a proven live point) to `end`, a return `start`
    to a proven return point. `ohm` is the resistance of the spare wire. `revision` is the wiring it was
    tried on (empty: the job's first), `taken_at` when (UTC, ISO 8601).
    """

    id: Id
    moment: Id
    kind: TrialKind
    start: Id
    end: Id
    outcome: Outcome | None = None
    ohm: Annotated[float, Ge(0), Le(100)] = 0.01
    revision: IdOrNone = ""
    taken_at: TimeOrNone = ""
    note: Text = ""
    who: Name = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class WalkNote:
    """Something said on a walk that is no reading: a caution taken note of, a step skipped and why.

    What was seen or heard stands in `reason`, under the step `seen`.
    """

    id: Id
    stage: Stage
    run: Id
    step: Title
    state: NoteState
    reason: Text = ""
    who: Name = ""
    made_at: Time


Share = Annotated[float, Ge(-0.5), Le(1.5)]
"""Of the width of a box, with room beside it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SignOff:
    """A signature under a proof: which run, the wiring as it was left then, and what it came to.

    `strokes` are the lines drawn with a finger, as (x, y) in shares of the box's width, y downwards; none
    where somebody only typed the name.
    """

    id: Id
    run: Id
    revision: Id
    role: SignedBy
    name: Title
    strokes: Annotated[
        tuple[Annotated[tuple[tuple[Share, Share], ...], MaxLen(2000)], ...], MaxLen(100)
    ] = ()
    outcome: ProofOutcome
    made_at: Time


@dataclass(frozen=True, slots=True, kw_only=True)
class Revision:
    """One state of a job's wiring. `parent` is the revision it was changed from.

    `action` is what was done, as a code; what it changed is told from the two wirings. `summary` is what
    somebody wrote of it, as a file brought it along; `who` made it, where somebody said; `folded` counts
    earlier changes whose wirings are kept no more: they are told together with this one.
    """

    id: str
    stage: Stage
    parent: str | None
    made_at: str
    craft: Craft
    action: Action = "changed"
    summary: str = ""
    who: str = ""
    folded: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Job:
    """What stands on the shelf: the words of a job, and the limits of its own.

    `craft_name` is what the craft is called, by which it is known when it comes again; `customer` whose it
    is, as typed; `made_at` when the job was taken in (UTC, ISO 8601).
    """

    id: str
    title: str
    made_at: str = ""
    craft_name: str = ""
    customer: str = ""
    complaint: Complaint = Complaint()
    limit_set: str = "by-duty"
    own_limits: Mapping[str, Ceilings] = field(default_factory=dict)
    stock: tuple[str, ...] = ()
    source_checks: Mapping[str, Mapping[str, float]] = field(default_factory=dict)
    """Figures (SI, by the names of SourceFigures) that were read at a source, by its id."""
