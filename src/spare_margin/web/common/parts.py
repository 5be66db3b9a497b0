"""Parts of answers that several areas give: points, sources, stages, troubles."""

from spare_margin.core.budget.run_budget import RunBudget
from spare_margin.core.model.pieces import Craft
from spare_margin.service.job.snapshot import JobSnapshot
from spare_margin.service.job.worked import SolvedWiring
from spare_margin.wording.craft.changes import differences
from spare_margin.wording.craft.pieces import point_name
from spare_margin.wording.craft.sheets import RUNAWAY, stalled_words
from spare_margin.wording.language.units import figure

from .models import Point, SourceOut, SourceValues, StageOut


def point_out(craft: Craft, point_id: str) -> Point:
    """A test point with its name."""
    point = craft.point(point_id)
    return Point(id=point.id, name=point_name(craft, point_id), access=point.access)


def typed_milliohms(ohm: float) -> str:
    """A small resistance as a person would type it, to four digits."""
    return f"{figure(f'{ohm * 1000:.4g}')} m\u03a9"


def source_out(budget: RunBudget, solved: SolvedWiring) -> SourceOut:
    """The source of a run as it stands in the scenario that is shown."""
    source = solved.scenario.source(budget.run.source)
    return SourceOut(
        id=source.id,
        name=source.name,
        live=point_out(solved.craft, source.live),
        back=point_out(solved.craft, source.back),
        volts=budget.source_v,
        open_circuit_v=source.open_circuit_v,
        internal_ohm=source.internal_ohm,
        form=SourceValues(
            open_circuit=f"{figure(f'{source.open_circuit_v:g}')} V",
            internal=typed_milliohms(source.internal_ohm),
        ),
    )


def stages_out(snapshot: JobSnapshot) -> list[StageOut]:
    """The stages the job has, and what each changed."""
    found = snapshot.heads.get("as_found")
    return [
        StageOut(
            stage=stage,
            revision=head.id,
            changes=differences(found.craft, head.craft) if found and stage != "as_found" else [],
        )
        for stage, head in snapshot.heads.items()
    ]


def trouble_words(solved: SolvedWiring) -> str:
    """What keeps a wiring from being shown whole, in a sentence; empty where nothing does."""
    if solved.stalled:
        return stalled_words(solved.stalled[0])
    if solved.state.runaway:
        return RUNAWAY
    return solved.unclosed


def share_of_ceiling(spare: float, under: str, budget: RunBudget) -> float | None:
    """Spare as a share of the ceiling it is under."""
    ceilings = {
        "feed": budget.ceilings.feed_v,
        "return": budget.ceilings.return_v,
        "round_trip": budget.ceilings.round_trip_v,
    }
    ceiling = ceilings.get(under)
    return spare / ceiling if ceiling else None
