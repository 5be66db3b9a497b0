"""What was read at a source, as typed: kept, and given to its model."""

from dataclasses import dataclass, fields, replace

from spare_margin.core.errors import JobError
from spare_margin.core.measure.source_check import SourceFigures
from spare_margin.core.model.pieces import Battery, Craft, Source
from spare_margin.core.model.values import AsTyped
from spare_margin.exchange.quantities import Kind, understand
from spare_margin.service.job.desk import Acted, Desk
from spare_margin.service.job.session import JobSession
from spare_margin.service.job.typed_edit import edited
from spare_margin.store import jobs as job_store
from spare_margin.store.file.database import transaction
from spare_margin.wording.language.units import number

MOST_A = 5000.0
MOST_TIMES_NOMINAL = 3.0
"""No source stands this many times its nominal voltage apart."""
TEMPERATURES_C = (-60.0, 80.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceReadTyped:
    """The figures of a source check, as typed."""

    resting: AsTyped = ""
    loaded: AsTyped = ""
    current: AsTyped = ""
    loaded_clamps: AsTyped = ""
    temperature: AsTyped = ""
    cold_crank: AsTyped = ""
    load_end: AsTyped = ""
    charging: AsTyped = ""


FIELDS: dict[str, tuple[str, Kind]] = {
    "resting": ("resting_v", "volts"),
    "loaded": ("loaded_v", "volts"),
    "current": ("loaded_a", "amperes"),
    "loaded_clamps": ("loaded_clamps_v", "volts"),
    "temperature": ("temperature_c", "celsius"),
    "cold_crank": ("cold_crank_a", "amperes"),
    "load_end": ("load_end_v", "volts"),
    "charging": ("charging_v", "volts"),
}
"""Field as typed -> (figure of the core, what it is)."""


def source_named(session: JobSession, source_id: str | None) -> Source:
    """The source of this id in the newest wiring, the first by default. JobError where there is none."""
    sources = session.head(session.snapshot.latest).craft.sources
    if source_id is None:
        return sources[0]
    found = next((s for s in sources if s.id == source_id), None)
    if found is None:
        raise JobError("source", f"there is no {source_id}", "a source of the craft")
    return found


def figures_of(session: JobSession, source: Source) -> SourceFigures:
    """What was read at a source, for the check."""
    read = session.job.source_checks.get(source.id, {})
    known = {f.name for f in fields(SourceFigures)}
    return SourceFigures(
        battery=source.battery,
        nominal_v=session.head(session.snapshot.latest).craft.nominal_v,
        **{key: value for key, value in read.items() if key in known},
    )


def keep_source_read(desk: Desk, source_id: str, battery: Battery, typed: SourceReadTyped) -> None:
    """Keep what was read at a source, and its kind of battery. JobError names the field that is wrong."""
    source = source_named(desk.session, source_id)
    nominal_v = desk.session.head(desk.snapshot.latest).craft.nominal_v
    read = _understood(typed, nominal_v)

    def act(craft: Craft) -> Acted:
        changed = (replace(s, battery=battery) if s.id == source.id else s for s in craft.sources)
        return Acted(replace(craft, sources=tuple(changed)))

    with transaction(desk.connection):
        if battery != source.battery:
            desk.everywhere(act, "source")
        job_store.keep_source_check(desk.connection, desk.snapshot.job.id, source.id, read)


def give_internal(desk: Desk, source_id: str, internal: str) -> None:
    """Let the model of a source use an internal resistance, as typed, on every stage there is."""
    source, tables = source_named(desk.session, source_id), desk.session.tables
    given = {"internal": internal}
    desk.everywhere(lambda craft: Acted(edited(craft, source.id, given, tables)), "source")


def _understood(typed: SourceReadTyped, nominal_v: float) -> dict[str, float]:
    """Figures in SI by the core's names. JobError names the field that is wrong."""
    volts = MOST_TIMES_NOMINAL * nominal_v
    bounds = {"volts": (-volts, volts), "amperes": (0.0, MOST_A), "celsius": TEMPERATURES_C}
    out = {}
    for field, (key, kind) in FIELDS.items():
        text = getattr(typed, field).strip()
        if not text:
            continue
        value = understand(text, kind, field).value or 0.0
        least, most = bounds[kind]
        if not least <= value <= most or (kind == "amperes" and value == 0):
            raise JobError(
                field, f"{number(value)} is no such figure", f"{number(least)} up to {number(most)}"
            )
        out[key] = value
    return out
