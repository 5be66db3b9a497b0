"""A job: a craft somebody complains about, with its readings."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from spare_margin.core.model.limits import Ceilings
from spare_margin.core.model.pieces import ContactState, Craft

Stage = Literal["as_found", "planned", "as_left"]
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
LogSegment = Literal["off", "start", "steady"]
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

    what: str = ""
    when: str = ""
    conditions: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class LogWindow:
    """The window of a meter's log that a reading was taken from (s), and which figure of it."""

    log: str
    channel: int
    figure: LogFigure
    start_s: float
    end_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """One reading of a meter with its leads on two points, or a current through a piece.

    `value` is V (red against black; of a ripple its AC part), A, or K above the cable beside it; None
    where `state` says why there is no number. `hold` is a minimum or maximum that the meter held, as
    over a motor's start; `warm_min` how long the load had been on.
    `accuracy` is the half-width (same unit) within which the truth lies. A correction names in
    `supersedes` the reading it replaces; nothing is ever changed or deleted. `scenario` says
    what was on; `taken_at` is UTC, ISO 8601. `source_v` is a source reading taken with it. `moment`
    names the conditions it was taken under, `trial` what was changed for it; ohms are with the power
    off, `leads_ohm` of them the leads' own. `window` is that of a meter's log it was taken from,
    `moved` the piece that was moved while the meter held its least or most.
    """

    id: str
    revision: str
    quantity: Quantity
    red: str
    black: str
    value: float | None
    state: ReadingState
    typed: str
    accuracy: float
    scenario: str
    taken_at: str
    supersedes: str | None = None
    source_v: float | None = None
    moment: str | None = None
    trial: str | None = None
    leads_ohm: float = 0.0
    note: str = ""
    meter: str = ""
    hold: Hold = ""
    moved: str = ""
    warm_min: float | None = None
    who: str = ""
    window: LogWindow | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class LogChannel:
    """A channel of a meter's log: what it measured, and between which points (empty: nobody said)."""

    name: str
    quantity: LogQuantity
    red: str = ""
    black: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class LogTrace:
    """What is kept of a meter's log: what is drawn of it, and what was found in it.

    `least` and `most` hold for every channel what it showed from each of `seconds` to the next (None:
    nothing). `segments` are (kind, start, end), in seconds.
    """

    id: str
    name: str
    made_at: str
    started_at: str | None
    duration_s: float
    row_count: int
    channels: tuple[LogChannel, ...]
    seconds: tuple[float, ...]
    least: tuple[tuple[float | None, ...], ...]
    most: tuple[tuple[float | None, ...], ...]
    segments: tuple[tuple[LogSegment, float, float], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class StandInLoad:
    """A known load hung between two points in place of an unplugged one, and what it draws (A)."""

    start: str
    end: str
    amperes: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Moment:
    """The conditions under which readings belong together.

    `loads` are loads that are otherwise than in the scenario, by id; `warm_min` the minutes since
    switching on, `rpm` the engine's speed, `charging` whether a charger runs. With a `stand_in`, the
    `leads_ohm` of a reading are those of its leads, whose drop the reading lacks. `contacts` are switches,
    breakers and relay contacts that were commanded otherwise than in the scenario, by id.
    """

    id: str
    scenario: str
    loads: Mapping[str, LoadState] = field(default_factory=dict)
    warm_min: float | None = None
    rpm: float | None = None
    charging: bool | None = None
    note: str = ""
    stand_in: StandInLoad | None = None
    contacts: Mapping[str, ContactState] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """A change tried out while something is watched: what was joined, and what came of it.

    A bridge joins two points; a feed joins `start` (a proven live point) to `end`, a return `start`
    to a proven return point. `ohm` is the resistance of the spare wire. `revision` is the wiring it was
    tried on (empty: the job's first), `taken_at` when (UTC, ISO 8601).
    """

    id: str
    moment: str
    kind: TrialKind
    start: str
    end: str
    outcome: Outcome | None = None
    ohm: float = 0.01
    revision: str = ""
    taken_at: str = ""
    note: str = ""
    who: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class WalkNote:
    """Something said on a walk that is no reading: a caution taken note of, a step skipped and why.

    What was seen or heard stands in `reason`, under the step `seen`.
    """

    id: str
    stage: Stage
    run: str
    step: str
    state: NoteState
    reason: str
    who: str
    made_at: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SignOff:
    """A signature under a proof: which run, the wiring as it was left then, and what it came to.

    `strokes` are the lines drawn with a finger, as (x, y) in shares of the box's width, y downwards; none
    where somebody only typed the name.
    """

    id: str
    run: str
    revision: str
    role: SignedBy
    name: str
    strokes: tuple[tuple[tuple[float, float], ...], ...] = ()
    outcome: ProofOutcome
    made_at: str


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
