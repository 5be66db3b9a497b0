"""Logs of meters: what is drawn and found of each, and its samples."""

import io
import json
import sqlite3
from collections.abc import Callable, Iterable
from dataclasses import asdict, astuple

import numpy as np

from spare_margin.core.measure.meter_logs import Channel, MeterLog
from spare_margin.core.model.jobs import LogChannel, LogSegment, LogTrace


def add_logs(connection: sqlite3.Connection, job: str, logs: Iterable[LogTrace]) -> None:
    """Keep logs. One that is there already, by its id, is left as it is. Call inside a transaction."""
    connection.executemany(
        """
        INSERT INTO meter_log (job_id, id, name, made_at, started_at, duration_s, row_count, channels,
            trace, segments)
        VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT (job_id, id) DO NOTHING
        """,
        (
            (
                job, x.id, x.name, x.made_at, x.started_at, x.duration_s, x.row_count,
                json.dumps([asdict(c) for c in x.channels]),
                *_drawn(x),
            )
            for x in logs
        ),
    )  # fmt: skip


def put_log(
    connection: sqlite3.Connection, job: str, trace: LogTrace, log: MeterLog, *, is_over: bool
) -> None:
    """Keep a log that grows, or has grown (`is_over`); points said of its channels meanwhile stay.

    Call inside a transaction.
    """
    connection.execute(
        """
        UPDATE meter_log SET started_at = ?, duration_s = ?, row_count = ?, trace = ?, segments = ?
        WHERE job_id = ? AND id = ?
        """,
        (trace.started_at, trace.duration_s, trace.row_count, *_drawn(trace), job, trace.id),
    )
    add_logs(connection, job, [trace])
    connection.execute(
        "DELETE FROM meter_log_samples WHERE job_id = ? AND log_id = ?", (job, trace.id)
    )
    # Every second anew: what is compressed is what stays.
    add_samples(connection, job, trace.id, log, save=np.savez_compressed if is_over else np.savez)


def _drawn(trace: LogTrace) -> tuple[str, str]:
    return (
        json.dumps({"seconds": trace.seconds, "least": trace.least, "most": trace.most}),
        json.dumps([astuple(s) for s in trace.segments]),
    )


def add_samples(
    connection: sqlite3.Connection,
    job: str,
    log_id: str,
    log: MeterLog,
    save: Callable[..., None] = np.savez_compressed,
) -> None:
    """Keep the samples of a log, written as numpy does it. Call inside a transaction."""
    out = io.BytesIO()
    columns = {f"c{i}": c.values for i, c in enumerate(log.channels)}
    save(out, seconds=log.seconds, **columns)
    connection.execute(
        "INSERT INTO meter_log_samples VALUES (?, ?, ?) ON CONFLICT DO NOTHING",
        (job, log_id, out.getvalue()),
    )


def logs(connection: sqlite3.Connection, job: str) -> list[LogTrace]:
    """Every log of a job, in the order they were brought in."""
    rows = connection.execute("SELECT * FROM meter_log WHERE job_id = ? ORDER BY rowid", (job,))
    return [_trace(row) for row in rows]


def _trace(row: sqlite3.Row) -> LogTrace:
    drawn = json.loads(row["trace"])
    return LogTrace(
        id=row["id"],
        name=row["name"],
        made_at=row["made_at"],
        started_at=row["started_at"],
        duration_s=row["duration_s"],
        row_count=row["row_count"],
        channels=tuple(LogChannel(**c) for c in json.loads(row["channels"])),
        seconds=tuple(drawn["seconds"]),
        least=tuple(map(tuple, drawn["least"])),
        most=tuple(map(tuple, drawn["most"])),
        segments=tuple(LogSegment(*s) for s in json.loads(row["segments"])),
    )


def samples(connection: sqlite3.Connection, job: str, trace: LogTrace) -> MeterLog | None:
    """The samples of a log; None where only what is drawn of it was kept."""
    row = connection.execute(
        "SELECT samples FROM meter_log_samples WHERE job_id = ? AND log_id = ?", (job, trace.id)
    ).fetchone()
    if row is None:
        return None
    with np.load(io.BytesIO(row["samples"]), allow_pickle=False) as held:
        channels = tuple(
            Channel(c.name, c.quantity, held[f"c{i}"]) for i, c in enumerate(trace.channels)
        )
        return MeterLog(held["seconds"], channels, trace.started_at)


def keep_points(
    connection: sqlite3.Connection, job: str, log_id: str, channels: Iterable[LogChannel]
) -> None:
    """Keep between which points the channels of a log were read."""
    connection.execute(
        "UPDATE meter_log SET channels = ? WHERE job_id = ? AND id = ?",
        (json.dumps([asdict(c) for c in channels]), job, log_id),
    )
