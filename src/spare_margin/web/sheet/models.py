"""What the API gives of a run sheet. Numbers are SI: V, A, ohm, m, W, degrees C.

What a sheet has many of is a plain value class: nothing is checked that was worked out here.
"""

from dataclasses import dataclass
from typing import Literal

from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.jobs import Stage
from spare_margin.core.model.pieces import (
    CraftKind,
    Duty,
    LoadLaw,
    PieceKind,
    Polarity,
    Repair,
    Side,
)
from spare_margin.web.common.figures import Amperes, Metres, Ohms, Share, Volts
from spare_margin.web.common.models import (
    Cell,
    Foot,
    Model,
    PassOut,
    Point,
    ScenarioOut,
    SourceOut,
    StageOut,
)
from spare_margin.wording.craft.workings import WorkingLine
from spare_margin.wording.measured.cautions import Caution


@dataclass(frozen=True, slots=True)
class PieceForm:
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
    bundle: str
    unsupported: bool
    cable: str
    open: bool
    repair: Repair | None
    pinned: str


@dataclass(frozen=True, slots=True)
class Column:
    """One piece of the run, in the order the current passes; or a fold that stands for `pieces`.

    `undrawn`: nobody has said what it is; `guessed`: what is predicted of it rests on such a thing. Its
    figures are then for pictures alone. `on_purpose`: it is fitted to take volts; `load` is then the run of
    which it is the load, in series with this one.
    """

    id: str
    pieces: list[str]
    kind: PieceKind
    name: str
    full_name: str
    side: Side
    spec: str
    entry: Point
    exit: Point
    group: int | None
    beside: bool
    current_a: Amperes
    resistance_ohm: Ohms | None
    temperature_c: float | None
    power_w: float
    allowance_v: Volts
    allowance_why: str
    ruled_by: str
    predicted_v: Volts
    spare_v: Volts
    predicted_verdict: Verdict
    undrawn: bool
    guessed: bool
    on_purpose: bool
    load: str | None
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
    ceiling_v: Volts | None
    predicted_v: Volts
    spare_v: Volts | None
    predicted_verdict: Verdict
    guessed: bool
    found: Cell | None
    left: Cell | None
    eaten: str


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
    current_a: Amperes
    power_w: float
    volts: Volts
    least_v: Volts | None
    drops_out: bool
    works: str
    unknown: bool
    guessed: bool
    feed: Point
    back: Point
    form: LoadForm


class HeadroomOut(Model):
    """How much more until the first ceiling. None: no bound within reason."""

    amperes: Amperes | None
    amperes_until: str
    metres: Metres | None
    metres_until: str


class ScenarioVolts(Model):
    """What the load gets in a scenario with the craft as measured; None where it drops out."""

    scenario: str
    name: str
    load_v: Volts | None
    spare_v: Volts | None


class AsMeasured(Model):
    """The run by the craft as measured: what it does in every scenario, and in the worst of them."""

    stage: Stage
    worst: str
    scenarios: list[ScenarioVolts]
    moments: list[str]
    amps: Amperes | None
    amps_doubt: Amperes | None


class RunOut(Model):
    """The open run."""

    load: LoadOut
    source: SourceOut
    columns: list[Column]
    folds: list[Column]
    sides: list[SideOut]
    spare_v: Volts | None
    spare_share: Share | None
    spare_under: str
    basis: Literal["predicted", "as_found", "as_left"]
    load_v: Volts | None
    round_trip_ceiling_v: Volts | None
    verdict: Verdict
    verdict_says: str
    headroom: HeadroomOut
    measured: AsMeasured | None
    found: PassOut
    left: PassOut
    predicted: Foot
    working: list[WorkingLine]
    text: str


@dataclass(frozen=True, slots=True)
class RunInList:
    """A run beside the sheet."""

    id: str
    name: str
    on: bool
    spare_v: Volts | None
    spent_share: Share | None
    verdict: Verdict
    measured: bool


@dataclass(frozen=True, slots=True)
class LoadSwitch:
    """A load as a toggle."""

    id: str
    name: str
    on: bool
    current_a: Amperes


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
    cautions: tuple[Caution, ...]
    meter: str
