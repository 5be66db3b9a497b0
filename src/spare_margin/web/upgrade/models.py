"""What the API gives of the upgrade bench and the work order."""

from typing import Annotated, Literal

from pydantic import Field

from spare_margin.core.model.jobs import Stage
from spare_margin.web.common.figures import Amperes, Kilograms, Volts, WattsSaved
from spare_margin.web.common.models import Model, NamedChoice, ProtectionOut
from spare_margin.wording.measured.cautions import Caution


class UpgradeQuery(Model):
    """Which run; by default the one with least spare. `minute` is what a minute of work costs."""

    run: str | None = None
    minute: Annotated[float, Field(ge=0, le=1000)] = 0.8


class SpentBar(Model):
    """What a side loses before and after, against its ceiling (V); None where it is not known."""

    side: str
    before_v: Volts | None
    after_v: Volts | None
    ceiling_v: Volts | None


class InScenario(Model):
    """The run in a scenario: spare, and what the load gets; None where it drops out."""

    name: str
    spare_v: Volts
    load_v: Volts | None


class OtherRun(Model):
    """Another run that gets better or worse: its least spare before and after."""

    name: str
    before_v: Volts
    after_v: Volts


class PartOut(Model):
    """A line of the list of parts."""

    what: str
    amount: str
    price: str
    minutes: str


class SocketHole(Model):
    """A hole of the relay socket, and what it reads with the relay out and in."""

    hole: str
    out: str
    fitted: str


class RelayOut(Model):
    """The relay of a candidate: what it is, its margin, its socket."""

    says: list[str]
    socket: list[SocketHole]


class CandidateOut(Model):
    """One way to put the run right; `unread` where a side of it is not known, and its figures with it."""

    id: str
    title: str
    holds: bool
    short: str
    beaten_by: str | None
    taken: bool
    unread: bool
    spare_v: Volts | None
    load_v: Volts | None
    lost_v: Volts | None
    heat_saved_w: WattsSaved
    uncertain: bool
    switch_before_a: Amperes | None
    switch_after_a: Amperes | None
    copper_kg: Kilograms
    price: float | None
    price_text: str
    minutes: float
    minutes_text: str
    bars: list[SpentBar]
    scenarios: list[InScenario]
    sizes: list[str]
    proven: bool
    others: list[OtherRun]
    parts: list[PartOut]
    relay: RelayOut | None
    protection: list[ProtectionOut]


class UpgradeOut(Model):
    """The upgrade bench of a run, as far as it is worked out; no `spare_v` where the run is not known."""

    job: str
    title: str
    run: str
    name: str
    runs: list[NamedChoice]
    revision: str
    planned: bool
    spare_v: Volts | None
    worst: str
    measured: bool
    done: bool
    minute: float
    recommended: str
    best: str | None
    changes: str
    candidates: list[CandidateOut]
    refused: list[str]
    cautions: tuple[Caution, ...]


class Take(Model):
    """Take a candidate: it becomes the plan. `revision` is the plan's on screen, or that as found."""

    run: str
    candidate: str
    revision: str


class Taken(Model):
    """What was taken."""

    stage: Stage
    revision: str
    said: str


class OrderQuery(Model):
    """Which run's plan."""

    run: str | None = None


class OrderStepOut(Model):
    """One thing to do, to be ticked; a `guard` is a caution that comes before everything else.

    `place` is where the runs begin that it serves; empty where it serves all, or several.
    """

    id: str
    says: str
    mind: str
    ticked: bool
    guard: bool
    place: str


class OrderReading(Model):
    """A reading to take afterwards, with what it should show."""

    what: str
    red: str
    black: str
    expected: str


class OrderOut(Model):
    """The work order of the plan; `name` is the run it is about, or the craft where it is about several."""

    job: str
    title: str
    craft: str
    run: str
    name: str
    revision: str
    changes: list[str]
    steps: list[OrderStepOut]
    parts: list[PartOut]
    price: str
    minutes: str
    copper_kg: Kilograms
    readings: list[OrderReading]
    relays: list[RelayOut]
    cautions: tuple[Caution, ...]
    stage: Literal["planned"]


class WireSortIn(Model):
    """What new wire is: the system and finish of its sizes, what its insulation bears (C)."""

    system: Literal["mm2", "mm2-road", "awg"]
    finish: Annotated[str, Field(max_length=20)] = "plain"
    insulation_c: Annotated[float, Field(ge=40, le=300)]


class SizeWanted(Model):
    """Size every conductor of the craft but those to keep; `thicker` where a size may only grow.

    With `mend` what was found at fault is mended first. With `free_only` what has a size keeps it.
    `sort` is what new wire is; none given: what most of the craft is of. With `anyway` limits that no sizes
    meet are missed by as little as there is.
    """

    objective: Literal["copper", "price"] = "copper"
    keep: Annotated[list[str], Field(max_length=20000)] = Field(default_factory=list)
    thicker: bool = False
    mend: bool = True
    free_only: bool = False
    sort: WireSortIn | None = None
    anyway: bool = False
    revision: str


class CraftWay(Model):
    """How all runs of the craft do in one way to put it right: how many are over, and the least spare.

    Those of the loads that are `unknown` count nowhere else.
    """

    id: Literal["as_is", "mended", "sized"]
    name: str
    runs: int
    over: int
    dropped: list[str]
    unknown: list[str]
    load: str
    spare_v: Volts


class SizedFuse(Model):
    """A fuse or breaker without a rating: the one chosen, and what it is rated for."""

    id: str
    name: str
    runs: str
    after: str
    because: str


class SizedWire(Model):
    """A conductor: the size it has, and the one chosen, with what forces it; the same where it stays."""

    id: str
    name: str
    runs: str
    length: str
    before: str
    after: str
    changed: bool
    free: bool
    because: str


class CeilingCost(Model):
    """A ceiling that the sizes answer to: what is spare under it, what a hundredth of a volt more saves."""

    load: str
    under: str
    spare_v: Volts
    saves: str


class SizingOut(Model):
    """The sizing of a whole craft, as far as it is; `anyway` where it can be sized with limits missed."""

    job: str
    title: str
    revision: str
    state: Literal["none", "running", "done", "impossible"]
    objective: Literal["copper", "price"]
    says: str
    more: list[str]
    anyway: bool
    seconds: int
    before: str
    after: str
    unit: str
    proven: bool
    wires: list[SizedWire]
    fuses: list[SizedFuse]
    to_size: int
    sort: WireSortIn
    sorts: list[WireSortIn]
    costs: list[CeilingCost]
    second: str
    measured: bool
    guilty: list[str]
    ways: list[CraftWay]
    cautions: tuple[Caution, ...]


class CraftRepair(Model):
    """One run put right by its own recommendation, or several that share what is new.

    `alone` says what it would cost to put each right by itself; the spares are the least of them.
    """

    load: str
    says: str
    alone: str
    sizes: list[str]
    before_v: Volts
    after_v: Volts | None
    price: str
    minutes: str


class RunByRunOut(Model):
    """A whole craft put right run by run, as far as it was worked out; `beyond` is what nothing helps.

    Of runs that are `unknown` nothing can be said.

    `sharing` names the loads for which one repair together is being tried.
    """

    revision: str
    done: bool
    repairs: list[CraftRepair]
    waiting: list[str]
    sharing: list[str]
    beyond: list[str]
    unknown: list[str]
    price: str
    minutes: str


class RunByRunQuery(Model):
    """What a minute of work costs."""

    minute: Annotated[float, Field(ge=0, le=1000)] = 0.8


class TakeCraft(Model):
    """Take all the repairs as the plan. `revision` is the plan's on screen, or that as found."""

    revision: str
    minute: Annotated[float, Field(ge=0, le=1000)] = 0.8


class TakeSizes(Model):
    """Take the sizes as the plan. `revision` is the plan's on screen, or that as found."""

    revision: str
