"""The source check as it is typed and shown."""

from dataclasses import fields

from spare_margin.core.errors import JobError
from spare_margin.core.measure.source_check import SourceFigures, check_source
from spare_margin.core.model.pieces import Source
from spare_margin.core.walk.cautions import cautions
from spare_margin.exchange.quantities import Kind, understand
from spare_margin.service.job.session import JobSession
from spare_margin.web.common.models import NamedChoice
from spare_margin.web.common.parts import typed_milliohms
from spare_margin.wording.craft.pieces import point_name
from spare_margin.wording.language.units import celsius, figure, number
from spare_margin.wording.measured.cautions import caution_words
from spare_margin.wording.measured.source import STATES, source_finding_words

from .models import SourceCheck, SourceFinding, SourceForm

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

SAME_SHARE = 0.02
"""Two internal resistances within this share of one another are the same."""


def source_of(session: JobSession, source_id: str | None) -> Source:
    """The source of this id in the newest wiring, the first by default."""
    sources = session.head(session.snapshot.latest).craft.sources
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
            raise JobError(
                field, f"{number(value)} is no such figure", f"{number(least)} up to {number(most)}"
            )
        out[key] = value
    return out


def _shown(kind: Kind, value: float | None) -> str:
    if value is None:
        return ""
    if kind == "celsius":
        return celsius(value).replace("\u00a0", " ")
    return figure(f"{value:g}") + {"volts": " V", "amperes": " A"}[kind]


def source_check(session: JobSession, source_id: str | None) -> SourceCheck:
    """What is known of a source, and what it says."""
    source = source_of(session, source_id)
    latest = session.snapshot.latest
    head = session.head(latest)
    craft = head.craft
    read = session.job.source_checks.get(source.id, {})
    known = {f.name for f in fields(SourceFigures)}
    figures = SourceFigures(
        battery=source.battery,
        nominal_v=craft.nominal_v,
        **{key: value for key, value in read.items() if key in known},
    )
    seen = check_source(figures)
    typed = {field: _shown(kind, read.get(key)) for field, (key, kind) in FIELDS.items()}
    return SourceCheck(
        source=source.id,
        name=source.name,
        title=session.job.title,
        sources=[NamedChoice(id=s.id, name=s.name, why="") for s in craft.sources],
        battery=source.battery,
        nominal_v=craft.nominal_v,
        live=point_name(craft, source.live),
        back=point_name(craft, source.back),
        form=SourceForm(**typed),
        state=seen.state,
        state_says="a supply" if source.battery == "none" else STATES[seen.state],
        charge=None if seen.charge is None else round(seen.charge * 20) / 20,
        internal_ohm=seen.internal_ohm,
        offer=_offer(seen.internal_ohm, source.internal_ohm),
        model_ohm=source.internal_ohm,
        clamps_ohm=seen.clamps_ohm,
        load_test_a=seen.load_test_a,
        least_v=seen.least_v,
        findings=[
            SourceFinding(says=says, do=do, good=f.good)
            for f in seen.findings
            for says, do in (source_finding_words(f),)
        ],
        stage=latest,
        revision=head.id,
        cautions=caution_words(cautions(craft, 1e9, latest, testing=True)),
    )


def _offer(found: float | None, drawn: float) -> str:
    """The resistance that was found, as it would be typed into the model; empty where it has it already."""
    if found is None or abs(found - drawn) <= SAME_SHARE * drawn:
        return ""
    return typed_milliohms(found)
