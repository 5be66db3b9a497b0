"""What somebody wants recorded, checked against the job and the meters there are."""

from collections.abc import Sequence
from dataclasses import dataclass

from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import Hold
from spare_margin.core.model.pieces import Craft
from spare_margin.exchange.quantities import Kind as Quantified
from spare_margin.exchange.quantities import understand
from spare_margin.service.job.session import JobSession
from spare_margin.service.readings.taking import Typed

from .recording import Kind, RecordedMeter, Wanted
from .room import MeterRoom

LEAST_CHANGE, MOST_CHANGE = 0.001, 100.0
"""What may count as a change of a watched figure (V or A)."""


@dataclass(frozen=True, slots=True)
class Laid:
    """A meter and the points that its leads lie on; empty where nobody said."""

    meter: str
    red: str = ""
    black: str = ""


def wanted(
    session: JobSession,
    room: MeterRoom,
    kind: Kind,
    laid: Sequence[Laid],
    least_change: str,
    typed: Typed,
    name: str,
) -> Wanted:
    """A recording as it can be begun. JobError names what is wrong.

    Args:
        least_change: of a watch, what counts as a change, as typed; empty: 50 mV.
        typed: the moment of what comes of it, and the recording's id.
        name: what its log is called.
    """
    craft = session.head(session.snapshot.latest).craft
    points = {p.id for p in craft.points}
    if not laid:
        raise JobError("meters", "none is named", "a meter of this workshop")
    if len({each.meter for each in laid}) < len(laid):
        raise JobError("meters", "one stands twice", "each meter once")
    meters = []
    for each in laid:
        try:
            held = room.connection(each.meter)
        except KeyError:
            raise JobError(
                "meters", f"there is no {each.meter}", "a meter of this workshop"
            ) from None
        for point in (each.red, each.black):
            if point and point not in points:
                raise JobError(
                    "meters", f"there is no test point {point}", "a test point of the job"
                )
        meters.append(
            RecordedMeter(
                meter=held.id, name=held.name, spec=held.spec, red=each.red, black=each.black
            )
        )  # fmt: skip
    first = meters[0]
    if kind != "trace" and (not first.red or not first.black or first.red == first.black):
        raise JobError(
            "meters", f"{first.name} has no test points yet", "one for red, one for black"
        )
    if typed.scenario not in {s.id for s in craft.scenarios}:
        raise JobError("scenario", f"there is no {typed.scenario}", "a scenario of the job")
    return Wanted(
        id=typed.id, job=session.job.id, kind=kind, name=name, meters=tuple(meters), typed=typed,
        least_change=_least(least_change), hold=_hold(craft, first),
    )  # fmt: skip


def _least(said: str) -> float:
    if not said.strip():
        return 0.05
    # A clamp is watched too; a bare figure counts in whichever the meter shows.
    kind: Quantified = "amperes" if said.strip().upper().endswith("A") else "volts"
    value = understand(said, kind, "least_change").value
    if value is None or not LEAST_CHANGE <= value <= MOST_CHANGE:
        raise JobError(
            "least_change",
            f"{said[:40]} is no change to watch for",
            "1 mV up to 100 V, or 1 mA up to 100 A",
        )
    return value


def _hold(craft: Craft, first: RecordedMeter) -> Hold:
    """Which end of a start is the reading: the least of what stands there, the most of what is lost."""
    leads = {first.red, first.black}
    stands = [{s.live, s.back} for s in craft.sources] + [{x.start, x.end} for x in craft.loads]
    return "least" if leads in stands else "most"
