"""Signing a proof: what was signed is the wiring as it was left, and what its proof came to then."""

import sqlite3
from collections.abc import Sequence

from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import SignedBy, SignOff
from spare_margin.service.errors import MOVED_ON, Conflict
from spare_margin.service.job.revising import now
from spare_margin.service.job.session import JobSession
from spare_margin.service.proof.repairing import proof_of
from spare_margin.store import sign_offs as store
from spare_margin.store.file.database import transaction

Strokes = Sequence[Sequence[tuple[float, float]]]


MOST_DOTS = 2000
"""Dots of one signature: more show nothing more of it."""


def thinned(strokes: Strokes) -> tuple[tuple[tuple[float, float], ...], ...]:
    """A signature with no more dots than it takes, to a ten-thousandth of the box's width.

    >>> thinned([[(0.123456, 0.5), (0.2, 0.5)]])
    (((0.1235, 0.5), (0.2, 0.5)),)
    """
    every = -(-sum(len(line) for line in strokes) // MOST_DOTS) or 1
    out = []
    for line in strokes:
        kept = [*line[:-1:every], line[-1]] if len(line) > 1 else list(line)
        out.append(tuple((round(x, 4), round(y, 4)) for x, y in kept))
    return tuple(out)


def sign(
    connection: sqlite3.Connection,
    session: JobSession,
    sign_id: str,
    run: str,
    revision: str,
    role: SignedBy,
    name: str,
    strokes: Strokes,
) -> SignOff:
    """Keep a signature under the proof of a run. Sent twice with the same id it is kept once.

    Raises:
        JobError: nothing was read as left, or no name was given.
        Conflict: the wiring moved on since, or the id was used for something else.
    """
    plain = " ".join(name.split())
    if not plain:
        raise JobError("name", "is empty", "the name of whoever signs")
    kept = next((s for s in session.snapshot.sign_offs if s.id == sign_id), None)
    drawn = thinned(strokes)
    if kept is not None:
        if (kept.run, kept.revision, kept.role, kept.name, kept.strokes) != (
            run, revision, role, plain, drawn
        ):  # fmt: skip
            raise Conflict("A signature of this id was kept already, and it says something else.")
        return kept
    if "as_left" not in session.snapshot.heads or not session.measured_on("as_left", run):
        raise JobError("run", "nothing of it was read as left", "a proof that was begun")
    if session.head("as_left").id != revision:
        raise Conflict(MOVED_ON)
    made = SignOff(
        id=sign_id, run=run, revision=revision, role=role, name=plain, strokes=drawn,
        outcome=proof_of(session, run).outcome, made_at=now(),
    )  # fmt: skip
    with transaction(connection):
        store.add_sign_offs(connection, session.job.id, [made])
    return made
