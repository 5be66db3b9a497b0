"""Logs of meters in a job: brought in, found steps in, figures of any window, readings taken from them."""

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import IO

import numpy as np

from spare_margin.core.errors import JobError
from spare_margin.core.measure import meter_logs as core
from spare_margin.core.measure.meter_logs import MeterLog, WindowFigures, WindowKind
from spare_margin.core.model.jobs import LogChannel, LogSegment, LogTrace, LogWindow, Reading
from spare_margin.exchange.meter_log_csv import LogLayout, read_log
from spare_margin.service.errors import NotThere
from spare_margin.service.job.caches import Caches
from spare_margin.service.job.revising import now
from spare_margin.service.job.session import JobSession
from spare_margin.service.readings.taking import Origin, Typed, take
from spare_margin.store import meter_logs as store
from spare_margin.store.file.database import transaction

MOST_SEGMENTS = 500
READ_FROM = ("volts", "amperes", "kelvin")
DIGITS = 5
INSTANT_S = 0.3
"""Two meters that show a few figures a second show one each within so long of any instant."""


@dataclass(frozen=True, slots=True)
class Window:
    """A stretch of a log (s): the whole, one that was found (the `number`-th of its kind), or picked."""

    kind: WindowKind
    start_s: float
    end_s: float
    number: int = 1


@dataclass(frozen=True, slots=True)
class Figured:
    """A window of a log with the figures of each channel; None where it has none there."""

    window: Window
    figures: tuple[WindowFigures | None, ...]


@dataclass(frozen=True, slots=True)
class Drawn:
    """What is drawn of a log: least and most of every channel from one of `seconds` to the next."""

    seconds: tuple[float, ...]
    least: tuple[tuple[float | None, ...], ...]
    most: tuple[tuple[float | None, ...], ...]


def bring_log(
    connection: sqlite3.Connection,
    session: JobSession,
    log_id: str,
    name: str,
    stream: IO[bytes],
    layout: LogLayout,
) -> LogTrace:
    """Read a log and keep it, whole or not at all; sent twice with the same id it is kept once."""
    held = next((x for x in store.logs(connection, session.job.id) if x.id == log_id), None)
    if held is not None:
        return held
    log = read_log(stream, layout)
    nominal = session.head(session.snapshot.latest).craft.nominal_v
    channel = core.watched(log, nominal)
    found = [] if channel is None else core.segments(log, channel, nominal)
    channels = tuple(LogChannel(name=c.name, quantity=c.quantity) for c in log.channels)
    trace = traced(log_id, name, log, channels, found)
    with transaction(connection):
        store.add_logs(connection, session.job.id, [trace])
        store.add_samples(connection, session.job.id, log_id, log)
    return trace


def traced(
    log_id: str,
    name: str,
    log: MeterLog,
    channels: Sequence[LogChannel],
    found: Sequence[LogSegment],
) -> LogTrace:
    """A log as it is kept in a job: what is drawn of it, its channels, what was found in it."""
    seen = drawn(log)
    return LogTrace(
        id=log_id,
        name=" ".join(name.split())[:200] or "log",
        made_at=now(),
        started_at=log.started_at,
        duration_s=log.duration_s,
        row_count=len(log.seconds),
        channels=tuple(channels),
        seconds=seen.seconds,
        least=seen.least,
        most=seen.most,
        segments=tuple(found[:MOST_SEGMENTS]),
    )


def drawn(log: MeterLog) -> Drawn:
    """What is drawn of a log, or of a part of it."""
    seen = [core.envelope(log, i) for i in range(len(log.channels))]
    return Drawn(
        tuple(round(float(s), 6) for s in seen[0].seconds),
        tuple(_plain(e.least) for e in seen),
        tuple(_plain(e.most) for e in seen),
    )


def _plain(values: "np.ndarray") -> tuple[float | None, ...]:
    """Values for a document, to seven digits; None where there is none."""
    return tuple(float(f"{v:.7g}") if np.isfinite(v) else None for v in values)


def trace_of(connection: sqlite3.Connection, session: JobSession, log_id: str) -> LogTrace:
    """One log of a job. NotThere where it has none of this id."""
    found = next((x for x in store.logs(connection, session.job.id) if x.id == log_id), None)
    if found is None:
        raise NotThere("There is no such log in this job.")
    return found


def samples_of(connection: sqlite3.Connection, job_id: str, trace: LogTrace) -> MeterLog:
    """A log's samples; where only what is drawn of it came along, the middle of that."""
    held = store.samples(connection, job_id, trace)
    if held is not None:
        return held
    channels = []
    for i, channel in enumerate(trace.channels):
        both = np.array([trace.least[i], trace.most[i]], dtype=np.float64)
        channels.append(
            core.Channel(channel.name, channel.quantity, both.mean(axis=0).astype(np.float32))
        )
    return MeterLog(np.array(trace.seconds, dtype=np.float64), tuple(channels), trace.started_at)


def figured(log: MeterLog, windows: Sequence[Window]) -> list[Figured]:
    """The figures of every channel in some windows."""
    channels = range(len(log.channels))
    return [
        Figured(w, tuple(core.figures(log, i, w.start_s, w.end_s) for i in channels))
        for w in windows
    ]


def picked(log: MeterLog, start_s: float, end_s: float) -> tuple[Figured, Drawn]:
    """A window picked by hand: its figures, and its own trace. JobError where it ends before it begins."""
    if end_s <= start_s:
        raise JobError("end", "is not after the start", "seconds later than the start")
    where = core.in_window(log, start_s, end_s)
    channels = tuple(replace(c, values=c.values[where]) for c in log.channels)
    part = MeterLog(log.seconds[where], channels)
    (figures,) = figured(log, [Window("picked", start_s, end_s)])
    return figures, drawn(part) if len(part.seconds) else Drawn((), (), ())


def found_windows(trace: LogTrace) -> list[Window]:
    """The windows of what was found in a log."""
    numbers = core.numbered(trace.segments)
    return [
        Window(s.kind, s.start_s, s.end_s, number)
        for number, s in zip(numbers, trace.segments, strict=True)
    ]


def say_points(
    connection: sqlite3.Connection,
    session: JobSession,
    trace: LogTrace,
    channel: int,
    red: str | None,
    black: str | None,
) -> None:
    """Say on which points a channel's leads were; None: that one stays. JobError names what is wrong."""
    if not 0 <= channel < len(trace.channels):
        raise JobError(
            "channel", f"there is no channel {channel}", f"0 to {len(trace.channels) - 1}"
        )
    points = {p.id for p in session.head(session.snapshot.latest).craft.points}
    for field, point in (("red", red), ("black", black)):
        if point and point not in points:
            raise JobError(field, f"there is no test point {point}", "a test point of the job")
    said = list(trace.channels)
    held = said[channel]
    said[channel] = replace(
        held,
        red=held.red if red is None else red,
        black=held.black if black is None else black,
    )
    with transaction(connection):
        store.keep_points(connection, session.job.id, trace.id, said)


def take_from(
    connection: sqlite3.Connection,
    caches: Caches,
    session: JobSession,
    trace: LogTrace,
    window: LogWindow,
    typed: Typed,
) -> Reading:
    """Take a figure of a window as a reading; the source read beside it is of the same instant.

    `typed` says everything but the figure itself. JobError names what is wrong.
    """
    if not 0 <= window.channel < len(trace.channels):
        raise JobError("channel", f"there is no channel {window.channel}", "a channel of the log")
    channel = trace.channels[window.channel]
    if channel.quantity not in READ_FROM:
        raise JobError("channel", f"{channel.name} is in no unit of a reading", "V, A or K")
    if not channel.red or not channel.black:
        raise JobError("channel", f"nobody said where {channel.name} was read", "two test points")
    log = samples_of(connection, session.job.id, trace)
    found = core.figures(log, window.channel, window.start_s, window.end_s)
    if found is None:
        raise JobError("start_s", "there is nothing in this window", "a window with samples")
    value = {"mean": found.mean, "least": found.least, "most": found.most}[window.figure]
    source = _source(session, trace, log, window)
    said = replace(
        typed,
        quantity=channel.quantity,  # type: ignore[arg-type]
        red=channel.red,
        black=channel.black,
        typed=f"{value:.{DIGITS}g}" if abs(value) >= 1e-4 else "0",
        source="" if source is None or channel.quantity != "volts" else f"{source:.{DIGITS}g}",
        hold="" if window.figure == "mean" else window.figure,
        warm=_warm(trace, window),
        note=typed.note or f"{trace.name}, {window.start_s:.1f} to {window.end_s:.1f} s",
    )
    meter = session.tables.meters.get(channel.meter, session.meter)
    return take(connection, caches, session.snapshot, said, meter, Origin(window=window))


def _source(session: JobSession, trace: LogTrace, log: MeterLog, window: LogWindow) -> float | None:
    """What the channel on the source's posts showed in the same window: its mean; of a least or a most
    what it showed at that instant."""
    posts = [{s.live, s.back} for s in session.head(session.snapshot.latest).craft.sources]
    for i, channel in enumerate(trace.channels):
        if (
            i != window.channel
            and channel.quantity == "volts"
            and {channel.red, channel.black} in posts
        ):
            start, end = window.start_s, window.end_s
            if window.figure != "mean":
                at = core.instant(log, window.channel, start, end, window.figure)
                start, end = max(start, at - INSTANT_S), min(end, at + INSTANT_S)
            found = core.figures(log, i, start, end)
            return None if found is None else abs(found.mean)
    return None


def _warm(trace: LogTrace, window: LogWindow) -> str:
    """Minutes that the load had been on at the middle of a window, where the log shows it."""
    middle = (window.start_s + window.end_s) / 2
    switched = None
    for segment in trace.segments:
        if segment.kind in ("change", "quiet"):
            continue  # of a figure, whatever the load did
        if segment.kind == "off":
            switched = None
        elif switched is None:
            switched = segment.start_s
        if segment.start_s <= middle <= segment.end_s:
            return (
                ""
                if segment.kind == "off" or switched is None
                else f"{(middle - switched) / 60:.2g}"
            )
    return ""
