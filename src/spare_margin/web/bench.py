"""One job on the bench: its stages, readings and solved scenarios, ready to be shown.

Solves are made once each and only when something asks for them.
"""

import sqlite3
from collections import OrderedDict, deque
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property
from threading import Lock

from spare_margin.core.budget import RunBudgets
from spare_margin.core.jobs import Job, Reading, Revision, Stage, WalkNote
from spare_margin.core.limits import Limits
from spare_margin.core.outlook import ScenarioState, solved_scenario
from spare_margin.core.pieces import Craft, Scenario
from spare_margin.core.resistances import closed_ohms
from spare_margin.core.runs import Run, Traced, traced, traced_like
from spare_margin.core.tables import Tables
from spare_margin.store import jobs as job_store
from spare_margin.store import readings as reading_store
from spare_margin.store import revisions as revision_store
from spare_margin.store import walk_notes as note_store
from spare_margin.store.database import snapshot

from .words import stall_says


@dataclass(frozen=True, slots=True)
class JobState:
    """A job as the store has it: heads by stage, readings, and every wiring they were taken on."""

    job: Job
    heads: dict[Stage, Revision]
    readings: list[Reading]
    notes: list[WalkNote]
    revisions: dict[str, Revision]

    @property
    def latest(self) -> Stage:
        """The furthest stage the job has come to."""
        return list(self.heads)[-1]

    def readings_of(self, stage: Stage) -> list[Reading]:
        """All readings taken on any revision of a stage."""
        return [r for r in self.readings if self.revisions[r.revision].stage == stage]


class KnownWirings:
    """Wirings that were read lately, by job and revision: a revision never changes once written."""

    def __init__(self, most: int = 64) -> None:
        self._held: OrderedDict[tuple[str, str], Craft] = OrderedDict()
        self._most = most
        self._lock = Lock()

    def of(self, job: str) -> dict[str, Craft]:
        """What is known of one job, by revision id."""
        with self._lock:
            return {r: craft for (j, r), craft in self._held.items() if j == job}

    def learn(self, job: str, revisions: Iterable[Revision]) -> None:
        """Remember these; the ones not seen for longest are let go."""
        with self._lock:
            for revision in revisions:
                self._held[job, revision.id] = revision.craft
                self._held.move_to_end((job, revision.id))
            while len(self._held) > self._most:
                self._held.popitem(last=False)


def job_state(connection: sqlite3.Connection, job_id: str, known: KnownWirings) -> JobState | None:
    """Everything kept of one job; None if there is none of this id."""
    with snapshot(connection):
        job = job_store.job(connection, job_id)
        if job is None:
            return None
        kept = revision_store.all_revisions(connection, job_id, known.of(job_id))
        heads = revision_store.heads(connection, job_id)
        readings = reading_store.readings(connection, job_id)
        notes = note_store.notes(connection, job_id)
    known.learn(job_id, kept)
    revisions = {r.id: r for r in kept}
    return JobState(
        job, {stage: revisions[at] for stage, at in heads.items()}, readings, notes, revisions
    )


class Solved:
    """One wiring in one scenario: runs, solution and budgets.

    A load that the network cannot feed is left off and named in `trouble`, so that the rest can
    still be seen and put right.
    """

    def __init__(
        self,
        craft: Craft,
        scenario: Scenario,
        limits: Limits,
        tables: Tables,
        state: ScenarioState | None = None,
    ) -> None:
        self.craft, self.limits, self.tables = craft, limits, tables
        state = state or solved_scenario(craft, scenario, tables)
        self.scenario, self.network, self.solution = state.scenario, state.network, state.solution
        self.stalled = state.stalled
        self.trouble = stall_says(state.stalled[0]) + " It is shown as off." if self.stalled else ""

    @cached_property
    def runs(self) -> Mapping[str, Run]:
        """Every run that closes, by load id."""
        found = _traced(self.craft, self.tables)
        self.trouble = self.trouble or found.problem
        return found.runs

    @cached_property
    def load_names(self) -> dict[str, str]:
        """What each load is called, by its id."""
        return {load.id: load.name for load in self.craft.loads}

    @cached_property
    def users(self) -> dict[str, list[str]]:
        """The ids of the loads whose run passes each piece."""
        out: dict[str, list[str]] = {}
        for key, run in self.runs.items():
            for step in run.steps():
                out.setdefault(step.piece.id, []).append(key)
        return out

    @cached_property
    def budgets(self) -> RunBudgets:
        """The budget of every run, by load id."""
        return RunBudgets(self.craft, self.runs, self.solution, self.limits, self.tables)


_traced_lately: deque[tuple[Tables, Traced]] = deque(maxlen=8)


def _traced(craft: Craft, tables: Tables) -> Traced:
    """The runs of a craft: those of one that hung together alike lately, else traced afresh."""
    found = None
    for same, held in reversed(tuple(_traced_lately)):
        if same is tables:
            found = held if held.craft is craft else traced_like(held, craft)
        if found is not None:
            break
    if found is None:
        found = traced(craft, closed_ohms(craft, tables))
    _traced_lately.append((tables, found))
    return found


def stale_readings(
    readings: list[Reading], head: Revision, revisions: dict[str, Revision], run: Run
) -> frozenset[str]:
    """Readings of a run taken before a piece they crossed was changed.

    A reading within one side crosses the pieces between its points; any other crosses them all.
    """
    out = set()
    for reading in readings:
        taken_on = revisions[reading.revision]
        if taken_on.id == head.id:
            continue
        before = {p.id: p for p in taken_on.craft.pieces}
        changed = {p.id for p in head.craft.pieces if before.get(p.id) != p}
        if changed & _crossed(reading, run):
            out.add(reading.id)
    return frozenset(out)


def _crossed(reading: Reading, run: Run) -> set[str]:
    for steps in (run.feed, run.back):
        main = [s for s in steps if not s.beside]
        points = [main[0].entry, *(s.exit for s in main)] if main else []
        if reading.red in points and reading.black in points:
            low, high = sorted((points.index(reading.red), points.index(reading.black)))
            return {s.piece.id for s in main[low:high]}
    return {s.piece.id for s in run.steps()}
