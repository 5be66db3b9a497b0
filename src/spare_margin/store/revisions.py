"""Revisions: every state a job's wiring has been in, and where each stage stands now."""

import sqlite3
from collections.abc import Mapping, Sequence

from spare_margin.core.model.jobs import STAGES, Revision, Stage
from spare_margin.core.model.pieces import Craft
from spare_margin.store.file.database import transaction
from spare_margin.store.wirings import read, written

KEPT_STEPS = 200
"""Undo reaches this many changes back; older ones that nothing was measured on are let go."""


def add_revision(connection: sqlite3.Connection, job: str, revision: Revision) -> None:
    """Write a revision and make it the head of its stage. Call inside a transaction."""
    connection.execute(
        """
        INSERT INTO revision
            (job_id, id, stage, parent, action, summary, made_at, who, folded, wiring)
        VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
        """,
        (
            job,
            revision.id,
            revision.stage,
            revision.parent,
            revision.action,
            revision.summary,
            revision.made_at,
            revision.who,
            revision.folded,
            written(revision.craft),
        ),
    )
    connection.execute(
        """
        INSERT INTO head (job_id, stage, revision_id, tip) VALUES (?, ?, ?, ?)
        ON CONFLICT (job_id, stage) DO UPDATE SET revision_id = excluded.revision_id, tip = excluded.tip
        """,
        (job, revision.stage, revision.id, revision.id),
    )


def change(connection: sqlite3.Connection, job: str, made: Sequence[Revision]) -> bool:
    """Keep changed wirings. False, and nothing is kept, if one was not made from the head of its stage, or,
    as the first of its stage, from that of another.

    Call inside a transaction.
    """
    heads_now = heads(connection, job)
    for revision in made:
        # The first of its stage may be made only once: who comes second goes on from that one.
        head = heads_now.get(revision.stage)
        if (
            revision.parent != head
            if head is not None
            else revision.parent not in heads_now.values()
        ):
            return False
    for revision in made:
        add_revision(connection, job, revision)
    _let_go(connection, job)
    return True


def _let_go(connection: sqlite3.Connection, job: str) -> None:
    """Forget old steps between which nothing was measured, so that a job does not grow for ever.

    The next that stays tells how many went before it.
    """
    old = connection.execute(
        """
        SELECT r.id, r.parent, r.folded FROM revision r
        WHERE r.job_id = :job AND r.parent IS NOT NULL
          AND NOT EXISTS (SELECT 1 FROM reading WHERE job_id = :job AND revision_id = r.id)
          AND NOT EXISTS (SELECT 1 FROM head WHERE job_id = :job AND r.id IN (revision_id, tip))
          AND (SELECT stage FROM revision WHERE job_id = :job AND id = r.parent) = r.stage
        ORDER BY r.rowid DESC LIMIT -1 OFFSET :kept
        """,
        {"job": job, "kept": KEPT_STEPS},
    ).fetchall()
    for row in old:
        connection.execute(
            "UPDATE revision SET parent = ?, folded = folded + ? WHERE job_id = ? AND parent = ?",
            (row["parent"], row["folded"] + 1, job, row["id"]),
        )
        connection.execute("DELETE FROM revision WHERE job_id = ? AND id = ?", (job, row["id"]))


def revision(connection: sqlite3.Connection, job: str, revision_id: str) -> Revision | None:
    """A revision with its wiring; None if the job has no such one."""
    row = connection.execute(
        "SELECT * FROM revision WHERE job_id = ? AND id = ?", (job, revision_id)
    ).fetchone()
    return _revision(row) if row else None


def _revision(row: sqlite3.Row, known: Craft | None = None) -> Revision:
    own = {
        key: row[key] for key in ("id", "stage", "parent", "summary", "made_at", "who", "folded")
    }
    own["action"] = row["action"] or "changed"
    return Revision(**own, craft=known or read(row["wiring"]))


def heads(connection: sqlite3.Connection, job: str) -> dict[Stage, str]:
    """The revision id at which each stage of a job stands, for the stages it has."""
    rows = connection.execute(
        "SELECT stage, revision_id FROM head WHERE job_id = ? AND revision_id IS NOT NULL", (job,)
    ).fetchall()
    found = {row["stage"]: row["revision_id"] for row in rows}
    return {stage: found[stage] for stage in STAGES if stage in found}


def all_revisions(
    connection: sqlite3.Connection, job: str, known: Mapping[str, Craft] | None = None
) -> list[Revision]:
    """The heads and every revision that something was measured on, as found first, then by age.

    `known` are wirings by revision id that were read before: a revision never changes.
    """
    held = known or {}
    rows = connection.execute(
        """
        SELECT * FROM revision r WHERE job_id = :job AND (
            id IN (SELECT revision_id FROM head WHERE job_id = :job)
            OR id IN (SELECT revision_id FROM reading WHERE job_id = :job))
        ORDER BY id = (SELECT revision_id FROM head WHERE job_id = :job AND stage = 'as_found') DESC,
            made_at, id
        """,
        {"job": job},
    ).fetchall()
    return [_revision(row, held.get(row["id"])) for row in rows]


def whole_history(connection: sqlite3.Connection, job: str) -> list[Revision]:
    """Every revision, the head of the first stage first, then by age: the same in every database."""
    rows = connection.execute(
        """
        SELECT * FROM revision r WHERE job_id = :job ORDER BY id = (
            SELECT revision_id FROM head WHERE job_id = :job AND revision_id IS NOT NULL
            ORDER BY stage = 'as_found' DESC, stage = 'planned' DESC LIMIT 1) DESC, made_at, id
        """,
        {"job": job},
    ).fetchall()
    return [_revision(row) for row in rows]


def heads_and_tips(connection: sqlite3.Connection, job: str) -> dict[Stage, tuple[str | None, str]]:
    """By stage, the revision at which it stands (None: undone away), and the one redo leads to."""
    rows = connection.execute(
        "SELECT stage, revision_id, tip FROM head WHERE job_id = ?", (job,)
    ).fetchall()
    found = {row["stage"]: (row["revision_id"], row["tip"]) for row in rows}
    return {stage: found[stage] for stage in STAGES if stage in found}


def put_heads(
    connection: sqlite3.Connection, job: str, heads: Mapping[Stage, tuple[str | None, str]]
) -> None:
    """Let stages stand where a file says. Call inside a transaction."""
    for stage, (at, tip) in heads.items():
        connection.execute(
            "UPDATE head SET revision_id = ?, tip = ? WHERE job_id = ? AND stage = ?",
            (at, tip, job, stage),
        )


def wiring(connection: sqlite3.Connection, job: str, revision_id: str) -> Craft:
    """The wiring of a revision that is known to exist."""
    found = revision(connection, job, revision_id)
    assert found is not None
    return found.craft


def step_back(connection: sqlite3.Connection, job: str, stage: Stage) -> str | None:
    """Undo the stage's last change: the id of its revision, or None where there is nothing to undo.

    The first revision of a later stage is undone only while nothing was measured on that stage.
    """
    with transaction(connection):
        row = connection.execute(
            """
            SELECT r.id, r.summary, r.parent, p.stage AS parent_stage
            FROM head h
            JOIN revision r ON r.job_id = h.job_id AND r.id = h.revision_id
            LEFT JOIN revision p ON p.job_id = r.job_id AND p.id = r.parent
            WHERE h.job_id = ? AND h.stage = ?
            """,
            (job, stage),
        ).fetchone()
        if row is None or row["parent"] is None:
            return None
        to = row["parent"] if row["parent_stage"] == stage else None
        if to is None and _measured(connection, job, stage):
            return None
        connection.execute(
            "UPDATE head SET revision_id = ? WHERE job_id = ? AND stage = ?", (to, job, stage)
        )
        return str(row["id"])


def _measured(connection: sqlite3.Connection, job: str, stage: Stage) -> bool:
    return (
        connection.execute(
            """
            SELECT 1 FROM reading JOIN revision r USING (job_id)
            WHERE job_id = ? AND r.id = revision_id AND r.stage = ? LIMIT 1
            """,
            (job, stage),
        ).fetchone()
        is not None
    )


def step_forward(connection: sqlite3.Connection, job: str, stage: Stage) -> str | None:
    """Redo the change that was undone last: the id of its revision, or None where there is none.

    Where this stage has nothing to redo, a later stage that was undone away comes back.
    """
    with transaction(connection):
        for each in STAGES[STAGES.index(stage) :]:
            row = _next_on_line(connection, job, each)
            if row is not None and (each == stage or row["head"] is None):
                connection.execute(
                    "UPDATE head SET revision_id = ? WHERE job_id = ? AND stage = ?",
                    (row["id"], job, each),
                )
                return str(row["id"])
        return None


def _next_on_line(connection: sqlite3.Connection, job: str, stage: Stage) -> sqlite3.Row | None:
    """The revision one step towards the tip from where a stage stands."""
    row: sqlite3.Row | None = connection.execute(
        """
        WITH RECURSIVE line (id, parent, summary) AS (
            SELECT r.id, r.parent, r.summary FROM revision r
            JOIN head h ON h.job_id = r.job_id AND h.tip = r.id
            WHERE h.job_id = :job AND h.stage = :stage
            UNION
            SELECT r.id, r.parent, r.summary FROM revision r
            JOIN line ON r.id = line.parent AND r.job_id = :job
            WHERE r.stage = :stage
        )
        SELECT line.id, line.summary, h.revision_id AS head FROM line, head h
        LEFT JOIN revision p ON p.job_id = :job AND p.id = line.parent
        WHERE h.job_id = :job AND h.stage = :stage AND line.id IS NOT h.revision_id
          AND (line.parent = h.revision_id
               OR (h.revision_id IS NULL AND (p.stage IS NULL OR p.stage <> :stage)))
        """,
        {"job": job, "stage": stage},
    ).fetchone()
    return row


def can_step(connection: sqlite3.Connection, job: str, stage: Stage) -> tuple[bool, bool]:
    """Whether undo and redo would do anything on this stage."""
    row = connection.execute(
        """
        SELECT h.revision_id, h.tip, r.parent, p.stage AS parent_stage
        FROM head h
        LEFT JOIN revision r ON r.job_id = h.job_id AND r.id = h.revision_id
        LEFT JOIN revision p ON p.job_id = h.job_id AND p.id = r.parent
        WHERE h.job_id = ? AND h.stage = ?
        """,
        (job, stage),
    ).fetchone()
    if row is None:
        return False, False
    back = row["parent"] is not None and (
        row["parent_stage"] == stage or not _measured(connection, job, stage)
    )
    later = STAGES[STAGES.index(stage) + 1 :]
    undone = connection.execute(
        f"""
        SELECT 1 FROM head WHERE job_id = ? AND revision_id IS NULL
        AND stage IN ({", ".join("?" * len(later))})
        """,
        (job, *later),
    ).fetchone()
    return back, row["revision_id"] != row["tip"] or undone is not None
