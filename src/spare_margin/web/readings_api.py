"""Readings as typed: understood, kept once, superseded, never changed."""

from flask_openapi3.blueprint import APIBlueprint
from flask_openapi3.models.tag import Tag

from spare_margin.core.errors import JobError
from spare_margin.core.jobs import Reading, Revision
from spare_margin.core.meters import CLAMP_METER
from spare_margin.core.pieces import Craft
from spare_margin.core.safety import out_of_scope
from spare_margin.exchange.quantities import Understood, understand
from spare_margin.store import readings as reading_store
from spare_margin.store import revisions as revision_store
from spare_margin.store.database import transaction

from .bench import JobState
from .connection import connection, earlier
from .jobs_api import JobPath
from .models import KeptReading, NewReading, Problem
from .opened import job_or_404, sheet_of
from .sheet_api import leave
from .words import amperes, volts
from .workshop import meter as meter_in_use

MOST_TIMES_NOMINAL = 1000.0
"""A value beyond this many times the nominal voltage is a slip of the finger, not a reading."""
MOST_AMPERES = 5000.0
MOST_KELVIN = 500.0
THERMOMETER_K = 2.0
"""Half-width of an infrared thermometer's difference between two surfaces side by side."""

readings_api = APIBlueprint(
    "readings",
    __name__,
    url_prefix="/api/v1/jobs/<string:job>",
    abp_tags=[Tag(name="readings")],
    abp_responses={"4XX": Problem},
)


@readings_api.post("/readings", responses={200: KeptReading})
def take(path: JobPath, body: NewReading) -> dict[str, object]:
    """Keep a reading. Sent twice with the same id it is kept once."""
    state = job_or_404(path.job)
    kept = next((r for r in state.readings if r.id == body.id), None)
    if kept is None:
        kept = _reading(state, body, _revision(state, body))
        with transaction(connection()):
            reading_store.add_readings(connection(), path.job, [kept])
    shown = sheet_of(path.job, body.view)
    return KeptReading(id=kept.id, understood=_said(kept), sheet=shown).model_dump()


def _revision(state: JobState, body: NewReading) -> Revision:
    """The wiring the reading belongs to, after everything that could refuse it was checked."""
    stage = body.stage if body.stage in state.heads else "planned"
    head = state.heads.get(stage, state.heads["as_found"])
    taken_on = _taken_on(state, body.revision)
    if taken_on is not None and taken_on.stage == head.stage:
        head = taken_on  # it waited on the device while the wiring was changed
    points = {p.id for p in head.craft.points}
    for field, point in (("red", body.red), ("black", body.black)):
        if point not in points:
            raise JobError(field, f"there is no test point {point}", "a test point of the job")
    if body.red == body.black:
        raise JobError("black", "both leads are on the same point", "two different points")
    if body.scenario not in {s.id for s in head.craft.scenarios}:
        raise JobError("scenario", f"there is no {body.scenario}", "a scenario of the job")
    if body.supersedes is not None and body.supersedes not in {r.id for r in state.readings}:
        raise JobError("supersedes", "there is no such reading", "the id of a kept reading")
    _refuse_out_of_scope(head.craft, body)
    understood(body, head.craft.nominal_v)
    _more(body, head.craft.nominal_v)
    return leave(state) if body.stage == "as_left" else head


def _taken_on(state: JobState, revision: str | None) -> Revision | None:
    """The wiring that was on the device when the reading was typed, if it is known here."""
    if revision is None or revision in state.revisions:
        return state.revisions.get(revision or "")
    return revision_store.revision(connection(), state.job.id, revision)


def _refuse_out_of_scope(craft: Craft, body: NewReading) -> None:
    """Nothing is taken from what must not be probed."""
    ends = {body.red, body.black}
    near = [p.name for p in craft.points if p.id in ends]
    near += [x.name for x in craft.loads if ends & {x.start, x.end}]
    found = out_of_scope(*near)
    if found is not None:
        raise JobError("red", f"{found.what} are out of bounds", found.why)


def understood(body: NewReading, nominal_v: float) -> Understood:
    """What was typed. Nothing typed over an earlier reading withdraws that one."""
    if not body.typed.strip():
        if body.supersedes is None:
            raise JobError("typed", "nothing was typed", "a reading, as 0.14 or OL")
        return Understood(None, "withdrawn")
    if body.quantity == "kelvin":
        read = understand(body.typed, "times", "typed", words=True)
    else:
        read = understand(body.typed, body.quantity, "typed", words=True)
    if read.value is not None:
        most = {"amperes": MOST_AMPERES, "kelvin": MOST_KELVIN}.get(
            body.quantity, MOST_TIMES_NOMINAL * nominal_v
        )
        if abs(read.value) > most:
            raise JobError(
                "typed", f"{read.value:g} is no reading of this craft", f"up to {most:g}"
            )
    return read


def _more(body: NewReading, nominal_v: float) -> tuple[float | None, float | None]:
    """The source read with it (V), and minutes of warm-up, where they were typed."""
    source = understand(body.source, "volts", "source").value if body.source.strip() else None
    if source is not None and not 0 < source <= 3 * nominal_v:
        raise JobError("source", f"{source:g} V is no source", f"above 0 up to {3 * nominal_v:g} V")
    warm = understand(body.warm, "times", "warm").value if body.warm.strip() else None
    if warm is not None and not 0 <= warm <= 10_000:
        raise JobError("warm", f"{warm:g} is no number of minutes", "0 up to 10000")
    return source, warm


def _reading(state: JobState, body: NewReading, revision: Revision) -> Reading:
    read = understood(body, revision.craft.nominal_v)
    source, warm = _more(body, revision.craft.nominal_v)
    meter = CLAMP_METER if body.quantity == "amperes" else meter_in_use()
    accuracy = meter.accuracy(read.value, read.step) if read.value is not None else 0.0
    if body.quantity == "kelvin":
        accuracy = THERMOMETER_K
    return Reading(
        id=body.id,
        revision=revision.id,
        quantity=body.quantity,
        red=body.red,
        black=body.black,
        value=read.value,
        state=read.state,
        typed=body.typed.strip(),
        accuracy=accuracy,
        scenario=body.scenario,
        taken_at=earlier(body.waited_s),
        supersedes=body.supersedes,
        note=body.note,
        source_v=source,
        meter="" if body.quantity == "kelvin" else meter.name,
        hold=body.hold,
        warm_min=warm,
        who=body.who.strip(),
    )


def _said(reading: Reading) -> str:
    """How a reading was understood."""
    if reading.value is None:
        return {
            "over_range": "over range",
            "wandering": "wandering",
            "not_reachable": "cannot reach",
            "withdrawn": "taken back",
        }[reading.state]
    if reading.quantity == "kelvin":
        return f"{reading.value:.0f} K above the cable beside it"
    shown = (volts if reading.quantity == "volts" else amperes)(reading.value)
    return f"{shown} \u00b1 {reading.accuracy:.2g}"
