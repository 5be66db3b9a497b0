"""An exercise from one's own job: its faults as found, without the names of people."""

import sqlite3
from dataclasses import replace

from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.errors import JobError
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.model.jobs import Job, Revision
from spare_margin.core.model.pieces import undrawn
from spare_margin.core.practice.exercise import Hidden
from spare_margin.core.practice.making import is_fair, symptom_of
from spare_margin.exchange.job_file.job_file import JobFileErrors, ReadJob
from spare_margin.exchange.job_file.writing import file_text, write_job
from spare_margin.exchange.practice import OwnDocument, own_text
from spare_margin.service.job.revising import new_id, now
from spare_margin.service.job.session import JobSession
from spare_margin.service.practice.exercises import OWN, limits, own_exercise
from spare_margin.store import practice as store
from spare_margin.store.practice import OwnExercise

TITLE = "An exercise"
MOST_OWN = 200
UNDRAWN_OHM = 0.004
"""What an undrawn stretch has in an exercise where nothing was found in it."""


def from_job(connection: sqlite3.Connection, session: JobSession) -> str:
    """Make an exercise of a job that has been found out; its key.

    JobError where nothing was read that decides, or where it would be no fair one.
    """
    if len(store.own_exercises(connection)) >= MOST_OWN:
        raise JobError("job", f"{MOST_OWN} jobs are exercises already", "those that there are")
    judging = session.judging("as_found")
    decided = [judging.judge(run) for run in judging.runs]
    decided = [j for j in decided if j.conclusion.found or j.conclusion.headline == "within"]
    if not decided:
        raise JobError("job", "nothing was found in it yet", "a job whose fault was found")
    found = max(decided, key=lambda j: len(j.conclusion.found))
    hidden = tuple(_hidden(found, key) for key in found.found)
    craft = session.snapshot.heads["as_found"].craft
    drawn = closed_ohms(craft, session.tables)
    # Undrawn stretches have something, and no piece keeps who mended it.
    pieces = tuple(
        replace(p, repair=None, resistance_ohm=UNDRAWN_OHM if undrawn(p) else p.resistance_ohm)
        for p in craft.pieces
    )
    craft = replace(craft, pieces=pieces)
    hidden = tuple(
        h if h.ohm == float("inf") else replace(h, ohm=max(h.ohm - drawn.get(h.element, 0.0), 0.0))
        for h in hidden
    )
    first = Revision(
        id="drawn", stage="as_found", parent=None, made_at=now(), craft=craft, action="drawn"
    )
    document = OwnDocument(
        wiring=file_text(write_job(ReadJob(Job(id="", title=TITLE), (first,), ()))),
        run=found.run.load.id, level=7 if len(hidden) != 1 else 2, symptom="asked",
        hidden=hidden, opens=(), seed=int(new_id()[:8], 16),
    )  # fmt: skip
    key = new_id()
    try:
        made = own_exercise(OWN + key, own_text(document))
    except (JobError, JobFileErrors):
        # Exercises go by the tables as they ship, so that they are the same everywhere.
        raise JobError(
            "job", "rests on rows of your own tables", "a job on the shipped ones"
        ) from None
    if not is_fair(made, limits()):
        raise JobError(
            "job", "makes no fair exercise: its run is near its limits as drawn, or its fault is slight",
            "a job whose wiring keeps its limits once it is put right",
        )  # fmt: skip
    text = own_text(replace(document, symptom=symptom_of(made)))
    store.keep_own(connection, OwnExercise(key, now(), text))
    return OWN + key


def _hidden(found: Judgement, key: str) -> Hidden:
    held = next(f for f in found.conclusion.found if f.piece == key)
    if held.kind == "open" or held.ohm is None:
        return Hidden(key, float("inf"))
    return Hidden(key, sum(held.ohm) / 2)
