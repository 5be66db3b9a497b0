"""What the API gives of a craft as a whole, of one run under other limits, of its source. SI."""

from dataclasses import dataclass

from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.jobs import Stage
from spare_margin.core.model.pieces import (
    Battery,
    CraftKind,
    Duty,
    Polarity,
    Side,
)
from spare_margin.service.drawing.scenarios import ScenarioTyped
from spare_margin.web.common.figures import Amperes, Kilograms, Metres, Share, Volts
from spare_margin.web.common.models import (
    Model,
    NamedChoice,
    ProtectionOut,
    StageOut,
)
from spare_margin.wording.craft.workings import WorkingLine
from spare_margin.wording.measured.cautions import Caution


class CraftRun(Model):
    """A run among all runs: how it stands in its worst scenario as drawn; `read` is what was read of it."""

    id: str
    name: str
    text: str
    pieces: int
    duty: Duty
    critical: bool
    spare_v: Volts | None
    spare_share: Share | None
    under: str
    verdict: Verdict
    read: Verdict | None
    worst: str
    worst_name: str
    load_v: Volts | None
    current_a: Amperes
    says: str
    working: list[WorkingLine]


class StretchOut(Model):
    """Pieces in a row that carry the same loads. `before_v` is lost before it, as far as is known.

    Without `drop_v` part of it is not drawn.
    """

    side: Side
    depth: int
    loads: list[str]
    pieces: list[str]
    name: str
    current_a: Amperes
    drop_v: Volts | None
    before_v: float
    working: list[WorkingLine]


class CopperOut(Model):
    """How much of one size a craft holds."""

    size: str
    length_m: Metres
    mass_kg: Kilograms | None
    working: list[WorkingLine]


class HelpOut(Model):
    """One piece made better, and what that gives."""

    piece: str
    name: str
    by: str
    gain_v: Volts
    runs: list[str]
    short_runs: int
    working: list[WorkingLine]


class StartOut(Model):
    """What the other loads get while a motor starts."""

    motor: str
    load: str
    running_v: Volts
    starting_v: Volts
    drops_out: bool
    says: str
    working: list[WorkingLine]


@dataclass(frozen=True, slots=True, kw_only=True)
class ScenarioOutForm(ScenarioTyped):
    """A scenario as a person would type it; `source_v` is what its first source has in it."""

    id: str
    source_v: str


class SourceInCraft(Model):
    """A source of the craft."""

    id: str
    name: str
    battery: Battery
    capacity_ah: float | None
    open_circuit: str
    internal: str


class LoadInCraft(Model):
    """A load of the craft; one whose loop is not closed yet has no run."""

    id: str
    name: str
    start_multiple: float | None


class CraftOut(Model):
    """A craft as a whole, at one stage; the picture in one scenario, the runs in their worst."""

    job: str
    title: str
    craft_name: str
    customer: str
    complaint: str
    complaint_when: str
    complaint_conditions: str
    craft: CraftKind
    nominal_v: float
    polarity: Polarity
    limit_set: NamedChoice
    limit_sets: list[NamedChoice]
    stage: Stage
    revision: str
    stages: list[StageOut]
    can_undo: bool
    can_redo: bool
    measured: bool
    scenario: str
    scenarios: list[ScenarioOutForm]
    sources: list[SourceInCraft]
    loads: list[LoadInCraft]
    runs: list[CraftRun]
    to_size: int
    order: list[str]
    stretches: list[StretchOut]
    copper: list[CopperOut]
    copper_kg: Kilograms
    helps: list[HelpOut]
    starts: list[StartOut]
    notices: list[str]
    cautions: tuple[Caution, ...]


class CraftQuery(Model):
    """Which stage and scenario to show."""

    stage: Stage | None = None
    scenario: str | None = None


class WorstOut(Model):
    """The scenario in which a run has least spare; `says` why where its load would stall."""

    scenario: str
    name: str
    spare_v: Volts | None
    says: str


class UnderLimits(Model):
    """One run under one limit set. Ceilings, spares in V; None where the set has none."""

    id: str
    name: str
    why: str
    own: bool
    in_use: bool
    feed_ceiling_v: Volts | None
    return_ceiling_v: Volts | None
    round_trip_ceiling_v: Volts | None
    spare_v: Volts | None
    spare_share: Share | None
    under: str
    amperes: Amperes | None
    metres: Metres | None
    verdict: Verdict
    over: list[str]
    note: str
    working: list[WorkingLine]


class LimitComparison(Model):
    """One run under every limit set, least spare first."""

    run: str
    name: str
    feed_v: Volts | None
    return_v: Volts | None
    sets: list[UnderLimits]


class Wondered(Model):
    """What one change would do to a run: V at the load and V spare, and how much that is more."""

    what: str
    load_v: Volts | None
    load_more_v: Volts | None
    spare_v: Volts | None
    more_v: Volts | None
    says: str


class ProtectionList(Model):
    """What is wrong with the fuses, the dangerous first."""

    found: list[ProtectionOut]


class WhatIf(Model):
    """What small changes would do to a run."""

    rows: list[Wondered]
