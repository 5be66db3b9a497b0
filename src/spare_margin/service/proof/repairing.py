"""What a repair of a run takes and what proves it: the work order, the readings afterwards, the proof."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass

from spare_margin.core.circuit.runs import HELD, Held, Read, Run, open_parts
from spare_margin.core.circuit.solution import Solution
from spare_margin.core.edit.run_rows import rows_of
from spare_margin.core.errors import JobError
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.measure.staleness import stale_readings
from spare_margin.core.model.jobs import Reading, Revision, Stage, WalkNote
from spare_margin.core.model.pieces import Craft, Scenario
from spare_margin.core.proof.conditions import acknowledged
from spare_margin.core.proof.passes import ProofPass
from spare_margin.core.proof.points import proof_points
from spare_margin.core.proof.proof import LEFT_UNDONE, Proof, prove
from spare_margin.core.upgrade.order import WorkOrder, expected_readings, work_order
from spare_margin.core.walk.cautions import guards
from spare_margin.core.walk.walk import Measurement
from spare_margin.service.job.judging import Judging
from spare_margin.service.job.session import Choice, JobSession

AFTER_WORK = "after_work"
"""The caution that is taken note of when the work is done."""


def order_of(session: JobSession, run_id: str) -> WorkOrder:
    """The work order of the plan for a run. JobError where there is no plan, or no such run in it."""
    if "planned" not in session.snapshot.heads:
        raise JobError("stage", "nothing is planned yet: plan a repair, or change a piece")
    bare = session.bare("planned")
    _has_run(bare, run_id)
    return work_order(
        session.head("as_found").craft, bare.craft, bare.runs[run_id],
        _solution(session, "planned", run_id), session.tables, _read_as_found(session, run_id),
        _places(bare.craft, bare.runs), _unread(session, run_id, bare.runs[run_id]),
    )  # fmt: skip


def _places(craft: Craft, runs: Mapping[str, Run]) -> dict[str, str]:
    """By piece, the point at which the runs begin that it serves; none where they begin at several."""
    found: dict[str, set[str]] = {}
    rows = rows_of(craft, runs)
    for key, run in runs.items():
        for step in run.steps():
            found.setdefault(step.piece.id, set()).add(rows[key].panel)
    return {piece: next(iter(at)) for piece, at in found.items() if len(at) == 1}


def at_other_runs(session: JobSession, order: WorkOrder, run_id: str) -> bool:
    """Whether an order is at pieces that serve other runs of the craft as found, and not this one."""
    at = {step.piece for step in order.steps if step.piece}
    found = {x.id for x in session.head("as_found").craft.loads}
    users: dict[str, set[str]] = {}
    for key, run in session.bare("planned").runs.items():
        for step in run.steps():
            users.setdefault(step.piece.id, set()).add(key)
    return any((of := users.get(piece, set()) & found) and run_id not in of for piece in at)


def notes_of(session: JobSession, run_id: str, stage: Stage) -> list[WalkNote]:
    """What was said of a run on a stage, in order."""
    return [n for n in session.snapshot.notes if n.run == run_id and n.stage == stage]


def ticked(session: JobSession, run_id: str) -> frozenset[str]:
    """The steps of the work order that are ticked, by id."""
    return acknowledged(notes_of(session, run_id, "planned"))


def left_undone(session: JobSession, run_id: str) -> str:
    """What somebody wrote of what was left undone, and why."""
    said = [n for n in notes_of(session, run_id, "as_left") if n.step == LEFT_UNDONE]
    return said[-1].reason if said and said[-1].state != "back" else ""


@dataclass(frozen=True, slots=True)
class Proving:
    """The measurements that prove a run, and what each should show (V, A), by its id."""

    points: tuple[Measurement, ...]
    expected: Mapping[str, float | None]


def proving(session: JobSession, run_id: str, scenario: Scenario | None = None) -> Proving:
    """What proves the repair of a run, and what each measurement should show in a scenario.

    JobError where the wiring as left has no such run.
    """
    stage = session.standing_in("as_left")
    bare = session.bare(stage)
    _has_run(bare, run_id)
    first = next(iter(session.snapshot.heads.values()))
    run = bare.runs[run_id]
    points = proof_points(first.craft, bare.craft, run, _read_as_found(session, run_id))
    solution = _solution(session, stage, run_id, scenario)
    readings = expected_readings(points, run, solution, _unread(session, run_id, run))
    return Proving(tuple(points), {e.measurement.id: e.expected for e in readings})


def proof_of(session: JobSession, run_id: str) -> Proof:
    """The proof of a run as far as it was read. JobError where the wiring as left has no such run."""
    stage = session.standing_in("as_left")
    judging = session.judging("as_left")
    _has_run(judging, run_id)
    judged = judging.judge(run_id)
    snapshot = session.snapshot
    found = None
    if _read_as_found(session, run_id):
        read = session.judging("as_found").judge(run_id)
        found = ProofPass(read, snapshot.readings_of("as_found"))
    points = proving(session, run_id, judged.conditions.scenario if judged.conditions else None)
    amps = judging.budget(run_id, judged.worst).current_a
    wanted = [*guards(judging.craft, amps, "as_left", judged.run.load), AFTER_WORK]
    first = next(iter(snapshot.heads.values())).craft
    return prove(
        found, ProofPass(judged, snapshot.readings_of("as_left")), first, points.points, points.expected,
        notes_of(session, run_id, "as_left"), wanted, session.protection(stage).violations,
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Try:
    """One repair as it was read: the wiring then, its own readings, and what they and earlier ones of what
    was not changed since said of the run."""

    revision: Revision
    found: Judgement
    readings: tuple[Reading, ...]


def tries(session: JobSession, run_id: str) -> list[Try]:
    """Every repair that was read, in the order they were made: a second fault shows in the later ones."""
    snapshot = session.snapshot
    by_revision: dict[str, list[Reading]] = {}
    for reading in snapshot.readings_of("as_left"):
        by_revision.setdefault(reading.revision, []).append(reading)
    out = []
    so_far: list[Reading] = []
    for key, readings in sorted(
        by_revision.items(), key=lambda each: snapshot.revisions[each[0]].made_at
    ):
        revision = snapshot.revisions[key]
        so_far = [*so_far, *readings]
        judging = Judging(
            revision.craft, so_far, snapshot.moments,
            [t for t in snapshot.trials if t.revision == key], session.limits,
            session.tables, _stale_on(so_far, revision, snapshot.revisions),
        )  # fmt: skip
        if run_id in judging.runs:
            found = judging.judge(run_id)
            if found.spans or found.amps is not None:
                out.append(Try(revision, found, tuple(readings)))
    return out


def _stale_on(
    readings: list[Reading], revision: Revision, revisions: Mapping[str, Revision]
) -> Callable[[Run], frozenset[str]]:
    """Which of these readings the changes up to a wiring have made old."""
    return lambda run: stale_readings(readings, revision, revisions, run)


def default_run(session: JobSession) -> str:
    """The run that is proved where nobody says which: the one most read, as left or else as found.

    JobError where the wiring as left has no run.
    """
    runs = session.judging("as_left").runs
    if not runs:
        raise JobError("run", "there is no run whose loop closes", "a craft with a load")
    stage: Stage = "as_left" if session.snapshot.readings_of("as_left") else "as_found"
    judging = session.judging(stage)
    most = judging.most_read() if judging.runs else ""
    return most if most in runs else next(iter(runs))


def _has_run(judging: Judging, run_id: str) -> None:
    if run_id not in judging.runs:
        raise JobError("run", f"there is no run {run_id}", ", ".join(judging.runs))


def _solution(
    session: JobSession, stage: Stage, run_id: str, scenario: Scenario | None = None
) -> Solution:
    """A changed wiring solved with its run on, by what was measured as found of what it keeps.

    Without a scenario in the one that it was read in, else where least is to spare.
    """
    planned = session.planned(stage, run_id)
    craft = session.head(stage).craft
    scenario = scenario or _read_in(session, run_id, craft)
    if planned is not None:
        made = planned[1]
        return made.measured.solved(scenario.id if scenario else made.worst.id)[0].solution
    on = scenario or craft.used_in(run_id)
    return session.solved(stage, session.view(Choice(run_id, on.id, stage))).solution


def _unread(session: JobSession, run_id: str, run: Run) -> frozenset[Held]:
    """What of a changed run keeps something that was neither drawn nor read."""
    read: Read = {run_id: frozenset(HELD)}
    if _read_as_found(session, run_id):
        read = {run_id: session.judging("as_found").judge(run_id).unread}
    return open_parts(run, read)


def _read_in(session: JobSession, run_id: str, craft: Craft) -> Scenario | None:
    """The scenario of a wiring in which a run was read as found: it is to be read in the same again."""
    if not _read_as_found(session, run_id):
        return None
    conditions = session.judging("as_found").judge(run_id).conditions
    read = conditions.scenario.id if conditions is not None else ""
    return next((s for s in craft.scenarios if s.id == read and run_id in s.on), None)


def _read_as_found(session: JobSession, run_id: str) -> Iterable[tuple[str, str]]:
    """The spans of a run that were read as found, in order."""
    if "as_found" not in session.snapshot.heads or not session.measured_on("as_found", run_id):
        return ()
    found = session.judging("as_found").judge(run_id)
    return tuple(dict.fromkeys((s.span.red, s.span.black) for s in found.spans))
