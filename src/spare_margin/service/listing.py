"""How a job stands in the list of jobs: worked out when it changed, and kept with it as figures."""

import sqlite3
from collections.abc import Callable
from dataclasses import asdict, dataclass
from math import isfinite

from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.jobs import Stage
from spare_margin.core.model.pieces import CraftKind
from spare_margin.store import jobs as job_store

from .session import Choice, JobSession


@dataclass(frozen=True, slots=True)
class Standing:
    """How one job stands: its craft, its focus run with what is spare there (V), and the verdict."""

    craft: CraftKind
    nominal_v: float
    run_count: int
    reading_count: int
    stage: Stage
    focus_run: str | None
    focus_name: str
    spare_v: float | None
    verdict: Verdict
    measured: bool
    stalled: tuple[str, float | None, float | None] | None
    unclosed: str


def standing(session: JobSession) -> Standing:
    """How a job stands now."""
    snapshot = session.snapshot
    scenario = snapshot.readings[-1].scenario if snapshot.readings else None
    latest = snapshot.heads[snapshot.latest].craft
    known = scenario if scenario in {s.id for s in latest.scenarios} else None
    view = session.view(Choice(scenario=known))
    solved = session.solved(view.stage, view)
    run_id = session.default_run(solved) if solved.budgets else None
    spare, verdict, measured = None, "not_measured", False
    if run_id is not None:
        left = solved.budgets.spend(run_id).spare_v
        on = solved.solution.elements[run_id].current_a != 0
        spare = left if on and isfinite(left) else None
        verdict = "not_measured" if spare is None else "over" if spare < 0 else "within"
        if view.stage != "planned" and session.measured_on(view.stage, run_id):
            judged = session.judgement(view.stage, run_id)
            if judged is not None and (judged.spans or judged.amps):
                measured = True
                verdict = judged.verdict
                if verdict == "not_judged":
                    verdict = "not_loaded" if judged.loaded is False else "not_measured"
                if judged.spare is not None and verdict in ("within", "over"):
                    spare = judged.spare[0]
    first = solved.stalled[0] if solved.stalled else None
    return Standing(
        craft=solved.craft.kind,
        nominal_v=solved.craft.nominal_v,
        run_count=len(solved.craft.loads),
        reading_count=len(snapshot.readings),
        stage=view.stage,
        focus_run=run_id,
        focus_name=solved.craft.load(run_id).name if run_id else "",
        spare_v=spare,
        verdict=verdict,  # type: ignore[arg-type]
        measured=measured,
        stalled=(first.name, first.loop_ohm, first.most_ohm) if first else None,
        unclosed=solved.unclosed,
    )


def listed(
    connection: sqlite3.Connection, away: bool, opened: Callable[[str], JobSession]
) -> list[tuple[str, str, str, Standing]]:
    """The jobs as (id, title, complaint, standing), newest first.

    Only what changed since it was last kept is worked out, and then kept.
    """
    out = []
    for row in job_store.listed(connection, away):
        if row.shown is None:
            found = standing(opened(row.id))
            job_store.keep_shown(connection, row.id, asdict(found))
        else:
            stalled = row.shown.get("stalled")
            found = Standing(**{**row.shown, "stalled": tuple(stalled) if stalled else None})
        out.append((row.id, row.title, row.complaint, found))
    return out
