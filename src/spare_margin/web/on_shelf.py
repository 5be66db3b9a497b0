"""A job as the shelf shows it."""

from .models import SheetQuery, ShelfJob
from .sheets import SheetMaker


def shelf_job(maker: SheetMaker) -> ShelfJob:
    """A job as the shelf shows it."""
    state = maker.state
    view = maker.view(SheetQuery())
    scenarios = [r.scenario for r in state.readings]
    if scenarios:
        view = maker.view(SheetQuery(scenario=scenarios[-1]))
    solved = maker.solved(view.stage, view)
    run_id = maker.default_run(solved) if solved.budgets else None
    spare, verdict, measured = None, "not_measured", None
    if run_id is not None:
        listed = {r.id: r for r in maker.listed(view, solved)}[run_id]
        spare, verdict, measured = listed.spare_v, listed.verdict, listed.measured
    return ShelfJob(
        id=state.job.id,
        title=state.job.title,
        complaint=state.job.complaint.what,
        craft=solved.craft.kind,
        nominal_v=solved.craft.nominal_v,
        run_count=len(solved.craft.loads),
        reading_count=len(state.readings),
        stage=view.stage,
        focus_run=run_id,
        focus_name=solved.craft.load(run_id).name if run_id else "",
        spare_v=spare,
        verdict=verdict,  # type: ignore[arg-type]
        measured=bool(measured),
        trouble=solved.trouble,
    )
