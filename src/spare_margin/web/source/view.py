"""The source check as it is typed and shown."""

from spare_margin.core.measure.source_check import check_source
from spare_margin.core.walk.cautions import cautions
from spare_margin.exchange.quantities import Kind
from spare_margin.service.job.session import JobSession
from spare_margin.service.job.source_checking import (
    FIELDS,
    SourceReadTyped,
    figures_of,
    source_named,
)
from spare_margin.web.common.models import NamedChoice
from spare_margin.web.common.parts import typed_milliohms
from spare_margin.wording.craft.pieces import point_name
from spare_margin.wording.language.units import celsius, figure
from spare_margin.wording.measured.cautions import caution_words
from spare_margin.wording.measured.source import STATES, source_finding_words

from .models import SourceCheck, SourceFinding

SAME_SHARE = 0.02
"""Two internal resistances within this share of one another are the same."""


def _shown(kind: Kind, value: float | None) -> str:
    if value is None:
        return ""
    if kind == "celsius":
        return celsius(value).replace("\u00a0", " ")
    return figure(f"{value:g}") + {"volts": " V", "amperes": " A"}[kind]


def source_check(session: JobSession, source_id: str | None) -> SourceCheck:
    """What is known of a source, and what it says."""
    source = source_named(session, source_id)
    latest = session.snapshot.latest
    head = session.head(latest)
    craft = head.craft
    read = session.job.source_checks.get(source.id, {})
    seen = check_source(figures_of(session, source))
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
        form=SourceReadTyped(**typed),
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
