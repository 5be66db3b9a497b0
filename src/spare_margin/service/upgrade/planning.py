"""A plan made of what was worked out: a repair of one run, sizes of the craft, all repairs run by run."""

from spare_margin.core.errors import JobError
from spare_margin.core.upgrade.candidates import Candidate
from spare_margin.service.job.desk import Desk, Edited
from spare_margin.service.upgrade.sizing_runs import SizingRun
from spare_margin.service.upgrade.whole_craft import craft_found, run_by_run_of


def plan_candidate(desk: Desk, revision: str, run: str, wanted: str) -> tuple[Edited, Candidate]:
    """Make a candidate of a run the plan. JobError where there is none of this id."""
    desk.planned_on(revision)
    upgrading = desk.session.upgrading(run)
    made = upgrading.candidate(wanted)
    if made is None:
        known = ", ".join(c.offer.id for c in upgrading.ready)
        raise JobError("candidate", f"there is no {wanted}", known)
    return desk.plan(revision, made.craft), made


def plan_sizes(desk: Desk, revision: str, run: SizingRun | None) -> Edited:
    """Make the sizes of a sizing the plan. JobError where it has none, or is of another wiring."""
    desk.planned_on(revision)
    if run is None or run.sized is None or run.basis != craft_found(desk.session).basis:
        raise JobError("sizing", "there are no sizes to take", "size the craft first")
    return desk.plan(revision, run.sized.craft)


def plan_run_by_run(desk: Desk, revision: str, a_minute: float) -> Edited:
    """Make all repairs, run by run, the plan. JobError while they are not worked out."""
    desk.planned_on(revision)
    stands = run_by_run_of(desk.session, a_minute).stands
    if not stands.done or not stands.repairs:
        raise JobError(
            "revision", "there are no repairs to take yet", "ask until they are worked out"
        )
    return desk.plan(revision, stands.craft)
