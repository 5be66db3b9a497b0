"""Finding jobs: by words, by what they are about, by when and how they stand; a page at a time."""

import json
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

from spare_margin.core.evidence.verdict.accepted import Sample
from spare_margin.store.file.database import transaction

State = Literal["drawn", "read", "planned", "left", "signed"]
"""How far a job has come: drawn up, read as found, planned, read as left, signed."""
PAGE = 50
MOST_WORDS = 8
ANY_FAULT = "any"


def folded(*texts: str) -> str:
    """Text as it is searched: without regard to capitals, one space between words."""
    return " ".join(" ".join(texts).split()).casefold()


@dataclass(frozen=True, slots=True)
class Asked:
    """Which jobs are wanted; what is empty does not narrow.

    Attributes:
        words: each must stand somewhere in the job's words, its loads or its fault.
        craft_name: exactly this craft.
        kind: a kind or style of piece that its wiring has.
        fault: the kind of piece found at fault; ANY_FAULT for any.
        since, until: days (UTC, ISO 8601) between which it was taken in, both counted.
        away: put away or not; None for both.
    """

    words: str = ""
    craft_name: str = ""
    customer: str = ""
    kind: str = ""
    fault: str = ""
    state: State | None = None
    since: str = ""
    until: str = ""
    away: bool | None = False


@dataclass(frozen=True, slots=True)
class Record:
    """What a job is found by, besides its own words."""

    state: State
    verdict: str
    kinds: tuple[str, ...]
    fault_kind: str
    fault: str
    words: str
    last_at: str
    samples: tuple[Sample, ...] = ()


@dataclass(frozen=True, slots=True)
class ListedRow:
    """A job's line in a list; `shown` are the figures kept of it, None where it changed since."""

    id: str
    title: str
    craft_name: str
    customer: str
    complaint: str
    made_at: str
    away: bool
    fault: str
    state: State | None
    shown: dict[str, Any] | None


def search(
    connection: sqlite3.Connection, asked: Asked, start: int = 0, count: int = PAGE
) -> tuple[list[ListedRow], int]:
    """Jobs as asked for, the newest first, from `start` on; and how many there are in all."""
    where, values = _where(asked)
    rows = connection.execute(
        f"""
        SELECT job.id, title, craft_name, customer, complaint_what, made_at, put_away, shown, fault, state
        FROM job LEFT JOIN job_record ON job_record.job_id = job.id
        WHERE {where} ORDER BY made_at DESC, job.rowid DESC LIMIT :count OFFSET :start
        """,
        {**values, "count": count, "start": start},
    )
    found = [
        ListedRow(
            r["id"], r["title"], r["craft_name"], r["customer"], r["complaint_what"], r["made_at"],
            bool(r["put_away"]), r["fault"] or "", r["state"],
            json.loads(r["shown"]) if r["shown"] else None,
        )
        for r in rows
    ]  # fmt: skip
    # Only where something of the record is asked for need every record be looked at.
    joined = any(word in where for word in ("kind", "fault", "state", "job_record"))
    source = "job LEFT JOIN job_record ON job_record.job_id = job.id" if joined else "job"
    total = connection.execute(f"SELECT COUNT(*) FROM {source} WHERE {where}", values).fetchone()
    return found, int(total[0])


def _where(asked: Asked) -> tuple[str, dict[str, Any]]:
    """The conditions in SQL, and what stands in them."""
    wanted: list[tuple[str, str, object]] = [
        ("put_away = :away", "away", "" if asked.away is None else int(asked.away)),
        ("craft_name = :craft", "craft", asked.craft_name),
        ("customer = :customer", "customer", asked.customer),
        ("instr(kinds, :kind)", "kind", asked.kind and f"|{asked.kind}|"),
        ("fault_kind = :fault", "fault", "" if asked.fault == ANY_FAULT else asked.fault),
        ("state = :state", "state", asked.state or ""),
        ("made_at >= :since", "since", asked.since),
        ("substr(made_at, 1, 10) <= :until", "until", asked.until),
    ]
    for i, word in enumerate(folded(asked.words).split()[:MOST_WORDS]):
        sql = f"(instr(job.words, :w{i}) OR instr(COALESCE(job_record.words, ''), :w{i}))"
        wanted.append((sql, f"w{i}", word))
    narrowed = [each for each in wanted if each[2] != ""]
    parts = [sql for sql, _, _ in narrowed]
    if asked.fault == ANY_FAULT:
        parts.append("fault_kind <> ''")
    return " AND ".join(parts) or "1", {key: value for _, key, value in narrowed}


def to_be_worked_out(connection: sqlite3.Connection, most: int) -> list[str]:
    """The ids of jobs that changed since they were worked out, newest first."""
    rows = connection.execute(
        "SELECT id FROM job WHERE shown IS NULL ORDER BY made_at DESC LIMIT ?", (most,)
    )
    return [row["id"] for row in rows]


def waits(connection: sqlite3.Connection, job_id: str) -> bool:
    """Whether a job changed since it was worked out."""
    row = connection.execute("SELECT shown IS NULL FROM job WHERE id = ?", (job_id,)).fetchone()
    return row is not None and bool(row[0])


def waiting_count(connection: sqlite3.Connection) -> int:
    """How many jobs changed since they were worked out."""
    return int(connection.execute("SELECT COUNT(*) FROM job WHERE shown IS NULL").fetchone()[0])


def put_away_count(connection: sqlite3.Connection) -> int:
    """How many jobs are put away."""
    return int(connection.execute("SELECT COUNT(*) FROM job WHERE put_away").fetchone()[0])


def samples(connection: sqlite3.Connection) -> list[list[Sample]]:
    """What accepted readings showed of single pieces, a list for each job that has some."""
    rows = connection.execute("SELECT samples FROM job_record WHERE samples <> '[]'")
    return [[Sample(*each) for each in json.loads(row["samples"])] for row in rows]


def culprits(connection: sqlite3.Connection) -> list[tuple[str, str, int]]:
    """What was found at fault, the most frequent first: kind, the craft's kind, in how many jobs."""
    rows = connection.execute(
        """
        SELECT fault_kind, json_extract(shown, '$.craft') AS craft, COUNT(*) AS count
        FROM job_record JOIN job ON job.id = job_record.job_id
        WHERE fault_kind <> '' AND shown IS NOT NULL
        GROUP BY 1, 2 ORDER BY count DESC, 1, 2
        """
    )
    return [(row["fault_kind"], row["craft"], row["count"]) for row in rows]


def keep_shown(connection: sqlite3.Connection, job_id: str, shown: Mapping[str, Any]) -> None:
    """Keep how a job is listed. Call inside a transaction."""
    connection.execute("UPDATE job SET shown = ? WHERE id = ?", (json.dumps(shown), job_id))


def try_again(connection: sqlite3.Connection) -> None:
    """Let jobs that could not be worked out wait to be, as after the program was changed."""
    with transaction(connection):
        connection.execute(
            "UPDATE job SET shown = NULL WHERE json_extract(shown, '$.unworkable') <> ''"
        )


def keep(
    connection: sqlite3.Connection, job_id: str, shown: Mapping[str, Any], record: Record
) -> None:
    """Keep what was worked out of a job. Call inside a transaction."""
    keep_shown(connection, job_id, shown)
    connection.execute(
        "INSERT OR REPLACE INTO job_record VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            job_id, record.state, record.verdict, "".join(f"|{k}|" for k in record.kinds),
            record.fault_kind, record.fault, record.words,
            json.dumps([[s.kind, s.style, s.place, s.ohm, s.drawn_ohm] for s in record.samples]),
            record.last_at,
        ),
    )  # fmt: skip
