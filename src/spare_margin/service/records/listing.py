"""How a job stands in the list of jobs: worked out when it changed, and kept with it as figures.

A look at the list works nothing out: what is not worked out yet is said, and comes with the next look.
A job that cannot be worked out is a line that says so.
"""

import sqlite3
from collections.abc import Callable
from dataclasses import asdict, dataclass, replace
from math import isfinite
from typing import Literal

from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.evidence.verdict.accepted import Sample, accepted
from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.jobs import Stage
from spare_margin.core.model.pieces import CraftKind, FixedPiece
from spare_margin.service.job.session import Choice, JobSession
from spare_margin.store import jobs as job_store
from spare_margin.store import records
from spare_margin.store.file.database import transaction
from spare_margin.store.records import Asked, ListedRow, Record, State, folded
from spare_margin.wording.craft.names import full_name

Unworkable = Literal["", "too_long", "failed"]
"""Why a job could not be worked out; empty where it could."""


@dataclass(frozen=True, slots=True)
class JobSummary:
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
    unworkable: Unworkable = ""


UNKNOWN = JobSummary(
    "other", 0.0, 0, 0, "as_found", None, "", None, "not_measured", False, None, ""
)  # fmt: skip
"""How a job stands of which nothing is known yet."""


@dataclass(frozen=True, slots=True)
class Listing:
    """A page of jobs (None: not worked out yet), how many there are, and how many wait in all."""

    rows: list[tuple[ListedRow, JobSummary | None]]
    total: int
    put_away: int
    waiting: int


def summary_of(session: JobSession) -> JobSummary:
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
        guessed = solved.runs[run_id].guessed
        spare = left if on and isfinite(left) and not guessed else None
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
    return JobSummary(
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


def recorded(session: JobSession, stands: JobSummary) -> Record:
    """What a job is found by."""
    snapshot = session.snapshot
    craft = snapshot.heads[snapshot.latest].craft
    kinds: dict[str, None] = {}
    for piece in craft.pieces:
        kinds[piece.kind] = None
        if isinstance(piece, FixedPiece) and piece.style:
            kinds[piece.style] = None
    fault_kind, fault = _fault(session)
    names = (load.name for load in craft.loads)
    times = [r.taken_at for r in snapshot.readings] + [n.made_at for n in snapshot.notes]
    times += [r.made_at for r in snapshot.revisions.values()]
    times += [s.made_at for s in snapshot.sign_offs]
    return Record(
        _state(session), stands.verdict, tuple(kinds), fault_kind, fault, folded(*names, fault),
        max(times, default=snapshot.job.made_at), tuple(_samples(session)),
    )  # fmt: skip


def _samples(session: JobSession) -> list[Sample]:
    """What accepted readings of a job show of single pieces, as found and as left."""
    out: list[Sample] = []
    stages: tuple[Stage, ...] = ("as_found", "as_left")
    for stage in stages:
        if stage not in session.snapshot.heads or not session.snapshot.readings_of(stage):
            continue
        judging = session.judging(stage)
        drawn = closed_ohms(judging.craft, session.tables)
        held: dict[str, Sample] = {}
        for run_id in judging.runs:
            if session.measured_on(stage, run_id):
                held |= accepted(judging.judge(run_id), drawn)
        out += held.values()
    return out


def _state(session: JobSession) -> State:
    snapshot = session.snapshot
    if any(s.revision == session.head(snapshot.latest).id for s in snapshot.sign_offs):
        return "signed"
    if snapshot.readings_of("as_left"):
        return "left"
    if "planned" in snapshot.heads:
        return "planned"
    return "read" if snapshot.readings else "drawn"


def _fault(session: JobSession) -> tuple[str, str]:
    """The piece, source or load that the readings as found point to: its kind, and its name."""
    if "as_found" not in session.snapshot.heads:
        return "", ""
    judging = session.judging("as_found")
    for run_id in judging.runs:
        if not session.measured_on("as_found", run_id):
            continue
        found = judging.judge(run_id)
        element = next(iter(found.found), run_id if found.done == "load" else None)
        if found.done not in ("cornered", "load") or element is None:
            continue
        piece = next((p for p in judging.craft.pieces if p.id == element), None)
        kind = piece.kind if piece else "load" if element == run_id else "source"
        return kind, full_name(judging.craft, found.run, element)
    return "", ""


def listed(connection: sqlite3.Connection, asked: Asked, start: int) -> Listing:
    """A page of the jobs that are asked for, newest first, as far as they are worked out."""
    # Counted first: a job that is worked out in between is shown as waiting once more, never left at that.
    waiting = records.waiting_count(connection)
    rows, total = records.search(connection, asked, start)
    away = records.put_away_count(connection)
    return Listing([(row, _kept(row)) for row in rows], total, away, waiting)


def work_out(
    connection: sqlite3.Connection, job_id: str, opened: Callable[[str], JobSession]
) -> None:
    """Work out how a job stands, and keep it. What changed meanwhile is worked out the next time.

    Who asked while it was being worked out asks for nothing more.
    """
    if not records.waits(connection, job_id):
        return
    before = job_store.beat(connection, job_id)
    session = opened(job_id)
    found = summary_of(session)
    record = recorded(session, found)
    with transaction(connection):
        if job_store.beat(connection, job_id) == before:
            records.keep(connection, job_id, asdict(found), record)


def put_down(connection: sqlite3.Connection, job_id: str, why: Unworkable) -> None:
    """Keep that a job could not be worked out, until it changes or the program is started again."""
    with transaction(connection):
        records.keep_shown(connection, job_id, asdict(replace(UNKNOWN, unworkable=why)))


def _kept(row: ListedRow) -> JobSummary | None:
    if row.shown is None:
        return None
    stalled = row.shown.get("stalled")
    return JobSummary(**{**row.shown, "stalled": tuple(stalled) if stalled else None})
