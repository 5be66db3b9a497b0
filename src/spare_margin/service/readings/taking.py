"""Taking readings: understood as typed, kept once, superseded, never changed."""

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Annotated, TypeVar

from annotated_types import MaxLen

from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import (
    Hold,
    LoadState,
    LogWindow,
    MeasuredStage,
    MeterFigure,
    Moment,
    Quantity,
    Reading,
    ReadingState,
    Revision,
    Stage,
    StandInLoad,
)
from spare_margin.core.model.meters import CLAMP_METER, Meter
from spare_margin.core.model.pieces import CONTACTS, ContactState, Craft
from spare_margin.core.model.values import AsTyped, DeviceId, Name, Text, Waited
from spare_margin.core.walk.safety import out_of_scope
from spare_margin.exchange.quantities import Kind, Understood, understand
from spare_margin.service.errors import MOVED_ON, OTHER_WIRING, Conflict
from spare_margin.service.job.caches import Caches
from spare_margin.service.job.revising import earlier, finished, keep_within, new_id
from spare_margin.service.job.session import JobSession
from spare_margin.service.job.snapshot import JobSnapshot, job_snapshot
from spare_margin.store import moments as moment_store
from spare_margin.store import readings as reading_store
from spare_margin.store import revisions as revision_store
from spare_margin.store.file.database import transaction
from spare_margin.wording.measured.cautions import OUT_OF_SCOPE

MOST_READINGS = 10_000
"""Of one job: each answer weighs them all."""
FRESH_S = 60.0
"""What waited no longer than this was read just now."""
MOST_V = 1000.0
MOST_AMPERES = 5000.0
MOST_KELVIN = 500.0
MOST_OHM = 1e7
MOST_LEADS_OHM = 10.0
MOST_RPM = 20_000.0
THERMOMETER_K = 2.0
"""Half-width of an infrared thermometer's difference between two surfaces side by side."""
OHMS_SHARE = 0.02
"""A meter's own ohms are good to this share; they only screen."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Typed:
    """A reading as typed. `states` are loads that are otherwise than in the scenario, by id.

    The id is made on the device. `source` is the source read with it, `warm` minutes that the load had been
    on.

    `leads` are the ohms of the meter's own leads, of a reading of ohms; `beside` the cable beside a warm
    surface, where both temperatures were read as they are; `moved` the piece that was moved meanwhile.
    `contacts` are switches, breakers and relay contacts that were open or closed otherwise than in the
    scenario, by id. `waited_s` is how long it waited on a device: whatever that device's clock is set to,
    the time it was taken comes out right; `revision` is the wiring that was on its screen. `by_meter` is
    what a meter gave by itself, `typed` then its figure.
    """

    id: DeviceId
    stage: MeasuredStage
    scenario: str
    quantity: Quantity = "volts"
    red: str
    black: str
    typed: AsTyped
    supersedes: str | None = None
    note: Text = ""
    source: AsTyped = ""
    hold: Hold = ""
    warm: AsTyped = ""
    who: Name = ""
    revision: str | None = None
    waited_s: Waited = 0.0
    states: Mapping[str, LoadState] | None = None
    charging: bool | None = None
    leads: AsTyped = ""
    beside: AsTyped = ""
    moved: Annotated[str, MaxLen(64)] = ""
    rpm: AsTyped = ""
    contacts: Annotated[Mapping[str, ContactState], MaxLen(50)] = field(default_factory=dict)
    by_meter: MeterFigure | None = None


Said = TypeVar("Said", bound=Typed)


@dataclass(frozen=True, slots=True, kw_only=True)
class Origin:
    """Where a reading comes from that nobody read off a display as it stands.

    `window` is that of a meter's log; `stand_in` the load it was read across, `leads_ohm` that one's leads.
    """

    window: LogWindow | None = None
    stand_in: StandInLoad | None = None
    leads_ohm: float = 0.0


READ = Origin()


def take(
    connection: sqlite3.Connection,
    caches: Caches,
    snapshot: JobSnapshot,
    typed: Typed,
    meter: Meter,
    origin: Origin = READ,
) -> Reading:
    """Keep a reading, and with the first one as left the wiring it was taken on: both, or neither.

    Sent twice with the same id it is kept once.

    Raises:
        JobError: names the field that is wrong.
        Conflict: the same id was sent before with another content, or the wiring moved on.
    """
    kept = next((r for r in snapshot.readings if r.id == typed.id), None)
    if kept is not None:
        if not _same(kept, typed, meter):
            raise Conflict("A reading of this id was kept already, and it says something else.")
        return kept
    if len(snapshot.readings) >= MOST_READINGS:
        raise JobError(
            "typed",
            f"the job holds {MOST_READINGS} readings already",
            "another job for what comes next",
        )
    head, leaves = wiring_read(connection, snapshot, typed)
    understood(typed)
    moment, known = moment_of(snapshot, typed, origin.stand_in)
    made = _beside(reading_of(typed, head, meter, moment, origin=origin), snapshot)
    made, leaves = _in_order(typed, made, head, leaves)
    try:
        with transaction(connection):
            if leaves is not None:
                keep_within(connection, snapshot, [leaves])
            if moment is not None and not known:
                moment_store.add_moments(connection, snapshot.job.id, [moment])
            reading_store.add_readings(connection, snapshot.job.id, [made])
    except Conflict:
        if leaves is None:
            raise
        # Another device was first to leave the wiring so: the reading is of that one.
        return take(connection, caches, afresh(connection, snapshot), typed, meter, origin)
    if leaves is not None:
        caches.learn(snapshot.job.id, [leaves])
    return made


def _beside(made: Reading, snapshot: JobSnapshot) -> Reading:
    """A reading of another moment than the one it was typed over stands beside that, not in its place.

    Other loads, another scenario, or warm for another time: what a contact does then is what is looked for.
    """
    earlier = next((r for r in snapshot.readings if r.id == made.supersedes), None)
    if earlier is None or made.state == "withdrawn":
        return made
    warmer = made.warm_min is not None and made.warm_min != earlier.warm_min
    other = (earlier.moment, earlier.scenario) != (made.moment, made.scenario)
    return replace(made, supersedes=None) if warmer or other else made


def _in_order(
    typed: Typed, made: Reading, head: Revision, leaves: Revision | None
) -> tuple[Reading, Revision | None]:
    """A reading that did not wait is never before the wiring it was read on, whatever a clock says."""
    if leaves is not None:
        # The wiring was left so when it was first read so.
        return made, replace(leaves, made_at=min(leaves.made_at, made.taken_at))
    if typed.waited_s < FRESH_S:
        return replace(made, taken_at=max(made.taken_at, head.made_at)), None
    return made, None


def afresh(connection: sqlite3.Connection, snapshot: JobSnapshot) -> JobSnapshot:
    """A job as it is kept now. Conflict where it is there no more."""
    found = job_snapshot(connection, snapshot.job.id, {})
    if found is None:
        raise Conflict(MOVED_ON)
    return found


def _same(kept: Reading, typed: Typed, meter: Meter) -> bool:
    # What it was typed over may have been of another moment, and is then not what it stands for.
    same = kept.supersedes is None or kept.supersedes == typed.supersedes
    fields = (kept.red, kept.black, kept.quantity, kept.typed)
    return same and fields == (typed.red, typed.black, typed.quantity, _as_typed(typed))


def wiring_read(
    connection: sqlite3.Connection, snapshot: JobSnapshot, typed: Typed
) -> tuple[Revision, Revision | None]:
    """The wiring the reading belongs to, and the one as left that it makes, if it does.

    Everything that could refuse the reading is checked here first.
    """
    stage: Stage = "as_left" if typed.stage == "as_left" else "as_found"
    head = snapshot.heads.get(stage)
    leaves = finished(snapshot) if stage == "as_left" else None
    if head is None:
        head = leaves or next(iter(snapshot.heads.values()))
    taken_on = _taken_on(connection, snapshot, typed.revision)
    if leaves is None and taken_on is not None and _was_read_on(typed, taken_on, head):
        head = taken_on  # it waited on the device while the wiring was changed
    _check_points(typed, head.craft)
    scenarios = {s.id for s in head.craft.scenarios}
    if typed.scenario not in scenarios:
        raise JobError("scenario", f"there is no {typed.scenario}", "a scenario of the job")
    if typed.supersedes is not None and typed.supersedes not in {r.id for r in snapshot.readings}:
        raise JobError("supersedes", "there is no such reading", "the id of a kept reading")
    loads = {x.id for x in head.craft.loads}
    for load in typed.states or {}:
        if load not in loads:
            raise JobError("states", f"there is no load {load}", "ids of loads")
    known = {p.id for p in head.craft.pieces if p.kind in CONTACTS}
    for contact in typed.contacts:
        if contact not in known:
            raise JobError(
                "contacts", f"there is no contact {contact}", "a switch, breaker or relay"
            )
    if typed.moved and typed.moved not in {p.id for p in head.craft.pieces}:
        raise JobError("moved", f"there is no {typed.moved}", "a piece of the craft")
    _refuse_out_of_scope(head.craft, typed)
    _more(typed, head.craft.nominal_v)
    return head, leaves


def _was_read_on(typed: Typed, named: Revision, head: Revision) -> bool:
    """Whether a reading is of the wiring it names rather than of the one as it is now.

    It names points by ids that are never given twice: where only the wiring as it is now has them, that is
    what was on screen, of which the rest had not heard of the last change yet.
    """
    ends = {typed.red, typed.black}
    has = ends <= {p.id for p in named.craft.points}
    return named.stage == head.stage and (has or not ends <= {p.id for p in head.craft.points})


def _check_points(typed: Typed, craft: Craft) -> None:
    points = {p.id for p in craft.points}
    for name, point in (("red", typed.red), ("black", typed.black)):
        if point not in points:
            raise JobError(name, f"there is no test point {point}", "a test point of the job")
    if typed.red == typed.black:
        raise JobError("black", "both leads are on the same point", "two different points")


def _taken_on(
    connection: sqlite3.Connection, snapshot: JobSnapshot, revision: str | None
) -> Revision | None:
    """The wiring that was on the device when the reading was typed, where it says which.

    Conflict where that one is not known here: which it belongs to now a person must say.
    """
    if revision is None or revision in snapshot.revisions:
        return snapshot.revisions.get(revision or "")
    found = revision_store.revision(connection, snapshot.job.id, revision)
    if found is None:
        raise Conflict(OTHER_WIRING)
    return found


def _refuse_out_of_scope(craft: Craft, typed: Typed) -> None:
    """Nothing is taken from what must not be probed."""
    ends = {typed.red, typed.black}
    near = [p.name for p in craft.points if p.id in ends]
    near += [x.name for x in craft.loads if ends & {x.start, x.end}]
    found = out_of_scope(*near)
    if found is not None:
        what, why = OUT_OF_SCOPE[found]
        raise JobError("red", f"{what} are out of bounds", why)


def _as_typed(typed: Typed) -> str:
    """What was typed, as it is kept."""
    plain, cable = typed.typed.strip(), typed.beside.strip()
    return f"{plain} beside {cable}" if typed.quantity == "kelvin" and cable else plain


def _above(typed: Typed) -> Understood:
    """How far a surface stands above the cable beside it (K), both typed as temperatures."""
    surface = understand(typed.typed, "celsius", "typed")
    cable = understand(typed.beside, "celsius", "beside")
    for name, read in (("typed", surface), ("beside", cable)):
        if read.value is None or not -60 <= read.value <= MOST_KELVIN:
            raise JobError(name, "is not a possible surface temperature", "-60 to 500 \u00b0C")
    return replace(surface, value=(surface.value or 0.0) - (cable.value or 0.0))


LAMP_WORDS: Mapping[str, ReadingState] = {
    "lit": "lit", "bright": "lit", "on": "lit", "dim": "dim", "glows": "dim", "dark": "dark",
    "out": "dark", "off": "dark", "x": "not_reachable", "cannot reach": "not_reachable",
}  # fmt: skip
"""How a test lamp is said to burn."""


def _lamp(text: str) -> Understood:
    """How a test lamp burned, as it was typed."""
    state = LAMP_WORDS.get(" ".join(text.lower().split()))
    if state is None:
        raise JobError("typed", "does not say how the lamp burns", "lit, dim or dark")
    return Understood(None, state)


def _leads(typed: Typed) -> float:
    """The meter's own leads (ohm), of a reading of ohms."""
    if typed.quantity != "ohms" or not typed.leads.strip():
        return 0.0
    value = understand(typed.leads, "ohms", "leads").value
    if value is None or not 0 <= value <= MOST_LEADS_OHM:
        raise JobError("leads", "is no resistance of leads", "0 up to 10 \u03a9, as 0.3")
    return value


def understood(typed: Typed) -> Understood:
    """What was typed. Nothing typed over an earlier reading withdraws that one."""
    if not typed.typed.strip():
        if typed.supersedes is None:
            raise JobError("typed", "nothing was typed", "a reading, as 0.14 or OL")
        return Understood(None, "withdrawn")
    if typed.quantity == "lamp":
        return _lamp(typed.typed)
    if typed.quantity == "kelvin" and typed.beside.strip():
        return _above(typed)
    kinds: Mapping[Quantity, Kind] = {
        "volts": "volts", "amperes": "amperes", "ohms": "ohms", "kelvin": "times", "ripple": "volts"
    }  # fmt: skip
    kind = kinds[typed.quantity]
    read = understand(typed.typed, kind, "typed", words=True)
    most = {"amperes": MOST_AMPERES, "kelvin": MOST_KELVIN, "ohms": MOST_OHM}.get(
        typed.quantity, MOST_V
    )
    if read.value is not None and abs(read.value) > most:
        raise JobError(
            "typed", f"{read.value:g} is not a possible reading on this craft", f"up to {most:g}"
        )
    return read


def _source(typed: Typed) -> str:
    """What the source was read at, as typed; else as the meter that stays on it showed."""
    beside = typed.by_meter.source if typed.by_meter else None
    return typed.source.strip() or ("" if beside is None else beside.typed)


def _more(typed: Typed, nominal_v: float) -> tuple[float | None, float | None]:
    """The source read with it (V), and minutes of warm-up, where they were typed."""
    said = _source(typed)
    source = understand(said, "volts", "source").value if said else None
    if source is not None and not 0 < source <= 3 * nominal_v:
        raise JobError(
            "source",
            f"{source:g} V is not a possible source voltage",
            f"above 0 up to {3 * nominal_v:g} V",
        )
    warm = understand(typed.warm, "times", "warm").value if typed.warm.strip() else None
    if warm is not None and not 0 <= warm <= 10_000:
        raise JobError("warm", f"{warm:g} is no number of minutes", "0 up to 10000")
    return source, warm


def moment_of(
    snapshot: JobSnapshot, typed: Typed, stand_in: StandInLoad | None = None
) -> tuple[Moment | None, bool]:
    """The moment a reading belongs to where its conditions differ from the scenario's; one that is
    known already is met again. Whether it is known."""
    states = dict(typed.states or {})
    rpm = _rpm(typed)
    said = bool(states or typed.contacts) or typed.charging is not None or rpm is not None
    if not said and stand_in is None:
        return None, False
    warm = understand(typed.warm, "times", "warm").value if typed.warm.strip() else None
    made = Moment(
        id=new_id(), scenario=typed.scenario, loads=states, warm_min=warm, charging=typed.charging,
        rpm=rpm, stand_in=stand_in, contacts=dict(typed.contacts),
    )  # fmt: skip
    for held in snapshot.moments:
        if replace(held, id=made.id, note="") == made:
            return held, True
    return made, False


def _rpm(typed: Typed) -> float | None:
    """The engine's speed, where it was typed."""
    if not typed.rpm.strip():
        return None
    value = understand(typed.rpm, "times", "rpm").value
    if value is None or not 0 <= value <= MOST_RPM:
        raise JobError("rpm", "is no engine speed", f"0 up to {MOST_RPM:g}")
    return value


def reading_of(
    typed: Typed,
    revision: Revision,
    meter: Meter,
    moment: Moment | None,
    trial: str | None = None,
    origin: Origin = READ,
) -> Reading:
    """A reading of what was typed, on a wiring, in a moment. JobError names the field that is wrong."""
    read = understood(typed)
    source, warm = _more(typed, revision.craft.nominal_v)
    used = CLAMP_METER if typed.quantity == "amperes" and not _has_spec(typed) else meter
    accuracy = 0.0
    if read.value is not None:
        shook = typed.by_meter.spread if typed.by_meter else 0.0
        # What it wandered by while it stood still is part of the doubt.
        accuracy = used.accuracy(read.value, read.step) + max(read.spread, shook / 2)
    if typed.quantity == "kelvin":
        accuracy = THERMOMETER_K
    elif typed.quantity == "ohms":
        accuracy = OHMS_SHARE * abs(read.value or 0.0)
    return Reading(
        id=typed.id,
        revision=revision.id,
        quantity=typed.quantity,
        red=typed.red,
        black=typed.black,
        value=read.value,
        state=read.state,
        typed=_as_typed(typed),
        accuracy=accuracy,
        scenario=typed.scenario,
        taken_at=earlier(typed.waited_s),
        supersedes=typed.supersedes,
        note=typed.note,
        source_v=source,
        meter="" if typed.quantity in ("kelvin", "lamp") else used.name,
        hold=typed.hold,
        warm_min=warm,
        who=typed.who.strip(),
        moment=moment.id if moment else None,
        trial=trial,
        leads_ohm=_leads(typed) or origin.leads_ohm,
        moved=typed.moved,
        window=origin.window,
        by_meter=typed.by_meter,
    )


def doubted(session: JobSession, typed: Said) -> tuple[Said, Meter]:
    """What was typed, and the meter that it was read with: the one that gave it, else the workshop's.

    What a second meter showed on the source gets the doubt of that meter's own specification.
    """
    given, meters = typed.by_meter, session.tables.meters
    if given is None:
        return typed, session.meter
    beside = given.source
    if beside is not None:
        read = understand(beside.typed, "volts", "source")
        used = meters.get(beside.spec, session.meter)
        own = used.accuracy(read.value or 0.0, read.step) + beside.spread / 2
        beside = replace(beside, accuracy=own)
    made = replace(typed, by_meter=replace(given, source=beside))
    return made, meters.get(given.spec, session.meter)


def _has_spec(typed: Typed) -> bool:
    """Whether the meter that gave the figure has a specification of its own."""
    return typed.by_meter is not None and bool(typed.by_meter.spec)
