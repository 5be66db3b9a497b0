"""The source check as it is typed and shown."""

from dataclasses import fields

from spare_margin.core.errors import JobError
from spare_margin.core.pieces import Source, point_called
from spare_margin.core.source_check import SourceFigures, State, check_source
from spare_margin.exchange.quantities import Kind, understand
from spare_margin.exchange.units import celsius, figure, spoken

from .bench import JobState
from .cautions import cautions
from .craft_models import NamedChoice, SourceCheck, SourceFinding, SourceForm

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
"""Field of the form -> (figure of the core, what it is)."""
STATES: dict[State, str] = {
    "unknown": "not read yet",
    "reversed": "reversed",
    "flat": "flat",
    "tired": "tired",
    "fair": "fair",
    "good": "good",
    "surface_charge": "surface charge",
}


def source_of(state: JobState, source_id: str | None) -> Source:
    """The source of this id in the newest wiring, the first by default."""
    sources = state.heads[state.latest].craft.sources
    if source_id is None:
        return sources[0]
    found = next((s for s in sources if s.id == source_id), None)
    if found is None:
        raise JobError("source", f"there is no {source_id}", "a source of the craft")
    return found


def figures_typed(form: SourceForm, nominal_v: float) -> dict[str, float]:
    """Figures in SI by the core's names. JobError names the field that is wrong."""
    out = {}
    for field, (key, kind) in FIELDS.items():
        text = getattr(form, field).strip()
        if not text:
            continue
        value = understand(text, kind, field).value or 0.0
        most = {"volts": 3 * nominal_v, "amperes": 5000.0, "celsius": 80.0}[kind]
        least = -most if kind == "volts" else -60.0 if kind == "celsius" else 0.0
        if not least <= value <= most or (kind == "amperes" and value == 0):
            raise JobError(field, f"{value:g} is no such figure", f"{least:g} up to {most:g}")
        out[key] = value
    return out


def _shown(kind: Kind, value: float | None) -> str:
    if value is None:
        return ""
    if kind == "celsius":
        return celsius(value).replace("\u00a0", " ")
    return figure(f"{value:g}") + {"volts": " V", "amperes": " A"}[kind]


def source_check(state: JobState, source_id: str | None) -> SourceCheck:
    """What is known of a source, and what it says."""
    source = source_of(state, source_id)
    head = state.heads[state.latest]
    craft = head.craft
    read = state.job.source_checks.get(source.id, {})
    known = {f.name for f in fields(SourceFigures)}
    figures = SourceFigures(
        battery=source.battery,
        nominal_v=craft.nominal_v,
        **{key: value for key, value in read.items() if key in known},
    )
    seen = check_source(figures)
    shown = {field: _shown(kind, read.get(key)) for field, (key, kind) in FIELDS.items()}
    return SourceCheck(
        source=source.id,
        name=source.name,
        title=state.job.title,
        sources=[NamedChoice(id=s.id, name=s.name, why="") for s in craft.sources],
        battery=source.battery,
        nominal_v=craft.nominal_v,
        live=point_called(craft, craft.point(source.live)),
        back=point_called(craft, craft.point(source.back)),
        form=SourceForm(**shown),
        state=seen.state,
        state_says="a supply" if source.battery == "none" else STATES[seen.state],
        charge=seen.charge,
        internal_ohm=seen.internal_ohm,
        model_ohm=source.internal_ohm,
        clamps_ohm=seen.clamps_ohm,
        load_test_a=seen.load_test_a,
        least_v=seen.least_v,
        findings=[SourceFinding(says=spoken(f.says), do=f.do, good=f.good) for f in seen.findings],
        stage=state.latest,
        revision=head.id,
        cautions=cautions(craft, 1e9, state.latest, burning=False, testing=True),
    )
