"""Readings across a load that stands in for an unplugged one: evidence like any other."""

import sqlite3
from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import MaxLen

from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import MeasuredStage, Reading, StandInLoad
from spare_margin.core.model.meters import Meter
from spare_margin.core.model.pieces import Craft, Load
from spare_margin.core.model.values import AsTyped, DeviceId, Name, Waited
from spare_margin.exchange.quantities import understand
from spare_margin.service.job.caches import Caches
from spare_margin.service.job.snapshot import JobSnapshot
from spare_margin.service.readings.taking import Origin, Typed, take

StandInPlace = Literal["connector", "return_moved", "feed_moved"]
"""Both leads in the connector; or one of them moved to a proven return, or to a proven fused feed."""
MOST_A = 500.0


@dataclass(frozen=True, slots=True, kw_only=True)
class StoodIn:
    """A reading across a stand-in load, as typed.

    `amps` is what it draws; `hung_source` and `hung_load` were read with the same set-up hung on the
    battery, and tell what its leads take; `proven` is the point a moved lead stands on (empty: the post).
    """

    id: DeviceId
    stage: MeasuredStage
    scenario: str
    run: str
    place: StandInPlace
    volts: AsTyped
    amps: AsTyped
    source: AsTyped = ""
    hung_source: AsTyped = ""
    hung_load: AsTyped = ""
    proven: Annotated[str, MaxLen(64)] = ""
    who: Name = ""
    revision: str | None = None
    waited_s: Waited = 0.0


def take_stood_in(
    connection: sqlite3.Connection,
    caches: Caches,
    snapshot: JobSnapshot,
    said: StoodIn,
    meter: Meter,
) -> Reading:
    """Keep what was read across a stand-in load. Errors as of `take`."""
    craft = snapshot.heads[snapshot.latest].craft
    load = next((x for x in craft.loads if x.id == said.run), None)
    if load is None:
        raise JobError("run", f"there is no run {said.run}", "a run of the craft")
    amps = _number(said.amps, "amperes", "amps", MOST_A)
    if amps is None:
        raise JobError("amps", "is empty", "what the stand-in load draws, as 1.75")
    start, end = _ends(craft, load, said)
    typed = Typed(
        id=said.id, stage=said.stage, scenario=said.scenario, quantity="volts", red=start, black=end,
        typed=said.volts, source=said.source, who=said.who, revision=said.revision,
        waited_s=said.waited_s, states={load.id: "unplugged"},
    )  # fmt: skip
    origin = Origin(
        stand_in=StandInLoad(start=start, end=end, amperes=amps),
        leads_ohm=_leads_ohm(said, craft.nominal_v, amps),
    )
    try:
        return take(connection, caches, snapshot, typed, meter, origin)
    except JobError as wrong:
        field = "volts" if wrong.path == "typed" else wrong.path
        raise JobError(field, wrong.problem, wrong.accepted) from None


def _number(text: str, kind: Literal["volts", "amperes"], field: str, most: float) -> float | None:
    if not text.strip():
        return None
    value = understand(text, kind, field).value
    if value is None or not 0 < value <= most:
        raise JobError(field, f"{text.strip()} is no such reading", f"above 0 up to {most:g}")
    return value


def _leads_ohm(said: StoodIn, nominal_v: float, amps: float) -> float:
    """What the stand-in's own leads have (ohm), by what it got when it hung on the battery."""
    source = _number(said.hung_source, "volts", "hung_source", 3 * nominal_v)
    got = _number(said.hung_load, "volts", "hung_load", 3 * nominal_v)
    if source is None or got is None:
        return 0.0
    if got > source + 0.05:
        raise JobError("hung_load", f"{got:g} V is more than the source had", f"up to {source:g} V")
    return max(source - got, 0.0) / amps


def _ends(craft: Craft, load: Load, said: StoodIn) -> tuple[str, str]:
    source = craft.sources[0]
    match said.place:
        case "return_moved":
            return load.start, said.proven or source.back
        case "feed_moved":
            return said.proven or source.live, load.end
    return load.start, load.end
