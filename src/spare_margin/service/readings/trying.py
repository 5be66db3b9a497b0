"""Taking trials: what was joined for a moment and what came of it, with the volts the load then got."""

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, replace

from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import (
    LoadState,
    MeasuredStage,
    Moment,
    Outcome,
    Reading,
    Revision,
    Trial,
    TrialKind,
)
from spare_margin.core.model.meters import Meter
from spare_margin.core.model.values import AsTyped, DeviceId, Name, Text, Waited
from spare_margin.exchange.quantities import understand
from spare_margin.service.errors import Conflict
from spare_margin.service.job.caches import Caches
from spare_margin.service.job.revising import earlier, keep_within, new_id
from spare_margin.service.job.snapshot import JobSnapshot
from spare_margin.service.readings.taking import (
    Typed,
    afresh,
    moment_of,
    reading_of,
    wiring_read,
)
from spare_margin.store import moments as moment_store
from spare_margin.store import readings as reading_store
from spare_margin.store.file.database import transaction

SPARE_WIRE_OHM = 0.01
"""A metre or two of jumper with its clips, where nobody measured it."""
MOST_SPARE_OHM = 100.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Tried:
    """A trial as it was told: the points that were joined, how the load came out, or its volts as typed.

    `ohm` is the spare wire's, as typed. The other fields are those of `Typed`.
    """

    id: DeviceId
    stage: MeasuredStage
    scenario: str
    run: str
    kind: TrialKind
    start: str
    end: str
    outcome: Outcome | None = None
    volts: AsTyped = ""
    ohm: AsTyped = ""
    note: Text = ""
    who: Name = ""
    revision: str | None = None
    waited_s: Waited = 0.0
    states: Mapping[str, LoadState] | None = None
    charging: bool | None = None


def take_trial(
    connection: sqlite3.Connection,
    caches: Caches,
    snapshot: JobSnapshot,
    tried: Tried,
    meter: Meter,
) -> Trial:
    """Keep a trial, with the reading at the load that was taken with it: both, or neither.

    Sent twice with the same id it is kept once.

    Raises:
        JobError: names the field that is wrong.
        Conflict: the same id was sent before with another content.
    """
    kept = next((t for t in snapshot.trials if t.id == tried.id), None)
    if kept is not None:
        said = (tried.kind, tried.start, tried.end, tried.outcome)
        if said != (kept.kind, kept.start, kept.end, kept.outcome):
            raise Conflict("A trial of this id was kept already, and it says something else.")
        return kept
    if tried.outcome is None and not tried.volts.strip():
        raise JobError("outcome", "is missing", "how the load came out, or the volts it got")
    ohm = _spare_ohm(tried.ohm)
    typed = _as_typed(tried)
    head, leaves = wiring_read(connection, snapshot, typed)
    moment, known = _moment(snapshot, typed)
    trial = Trial(
        id=tried.id, moment=moment.id, kind=tried.kind, start=tried.start, end=tried.end,
        outcome=tried.outcome, ohm=ohm, revision=head.id, taken_at=earlier(tried.waited_s),
        note=tried.note, who=tried.who.strip(),
    )  # fmt: skip
    reading = _at_load(tried, typed, head, meter, moment)
    try:
        with transaction(connection):
            if leaves is not None:
                keep_within(connection, snapshot, [leaves])
            if not known:
                moment_store.add_moments(connection, snapshot.job.id, [moment])
            moment_store.add_trials(connection, snapshot.job.id, [trial])
            if reading is not None:
                reading_store.add_readings(connection, snapshot.job.id, [reading])
    except Conflict:
        if leaves is None:
            raise
        return take_trial(connection, caches, afresh(connection, snapshot), tried, meter)
    if leaves is not None:
        caches.learn(snapshot.job.id, [leaves])
    return trial


def _as_typed(tried: Tried) -> Typed:
    """What goes for a reading between these two points goes for joining them."""
    return Typed(
        id=tried.id, stage=tried.stage, scenario=tried.scenario, quantity="volts", red=tried.start,
        black=tried.end, typed="", note=tried.note, who=tried.who, revision=tried.revision,
        waited_s=tried.waited_s, states=tried.states, charging=tried.charging,
    )  # fmt: skip


def _moment(snapshot: JobSnapshot, typed: Typed) -> tuple[Moment, bool]:
    """The moment of a trial, which always has one: that of its scenario by default. Whether it is known."""
    moment, known = moment_of(snapshot, typed)
    if moment is not None:
        return moment, known
    plain = Moment(id=new_id(), scenario=typed.scenario)
    held = next((m for m in snapshot.moments if replace(m, id=plain.id) == plain), None)
    return held or plain, held is not None


def _at_load(
    tried: Tried, typed: Typed, head: Revision, meter: Meter, moment: Moment
) -> Reading | None:
    """The volts that the load got, where they were read."""
    load = next((x for x in head.craft.loads if x.id == tried.run), None)
    if load is None:
        raise JobError("run", f"there is no run {tried.run}", "a run of the craft")
    if not tried.volts.strip():
        return None
    read = replace(
        typed, id=f"{tried.id[:60]}.v", typed=tried.volts, red=load.start, black=load.end
    )
    try:
        return reading_of(read, head, meter, moment, tried.id)
    except JobError as wrong:
        raise JobError("volts", wrong.problem, wrong.accepted) from None


def _spare_ohm(text: str) -> float:
    value = understand(text, "ohms", "ohm").value if text.strip() else SPARE_WIRE_OHM
    if value is None or not 0 <= value <= MOST_SPARE_OHM:
        raise JobError("ohm", "is no spare wire's resistance", "0 up to 100 \u03a9, as 20 m")
    return value
