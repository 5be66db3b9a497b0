"""Meters' logs of a job: looked at, brought in, shown, figured, taken readings from."""

import json
from dataclasses import asdict

import numpy as np
from flask import Response, request
from pydantic import BaseModel, ValidationError

from spare_margin.core.errors import JobError
from spare_margin.core.measure.meter_logs import Envelope, MeterLog, envelope, in_window
from spare_margin.core.model.jobs import LogTrace, LogWindow
from spare_margin.exchange.meter_log_csv import (
    LOOKED_AT,
    LogColumn,
    LogLayout,
    csv_of,
    guess_layout,
    shown_rows,
)
from spare_margin.service.job.session import JobSession
from spare_margin.service.readings import meter_logs as logs
from spare_margin.service.readings.meter_logs import Figured
from spare_margin.service.readings.taking import Typed
from spare_margin.store import meter_logs as store
from spare_margin.web.common.area import area
from spare_margin.web.common.context import JobPath, caches, connection, open_job
from spare_margin.web.common.downloads import attached
from spare_margin.web.common.models import Point
from spare_margin.web.common.parts import point_out
from spare_margin.wording.measured import meter_logs as words

from .models import (
    ChannelFigures,
    FineOut,
    LayoutAsked,
    LayoutIn,
    LayoutOut,
    LogChannelOut,
    LogColumnIn,
    LogLine,
    LogList,
    LogOut,
    LogQuery,
    PointsIn,
    TakeIn,
    TakenReading,
    WindowOut,
    WindowQuery,
)

MOST_BYTES = 200_000_000
"""A log of a million rows has some 30 MB; it is read in pieces and never held whole."""

logs_api = area("logs", __name__, "/api/v1/jobs/<string:job>/logs", "meter logs")


class LogPath(BaseModel):
    """The job and the log that an address names."""

    job: str
    log: str


@logs_api.get("", responses={200: LogList})
def log_list(path: JobPath) -> dict[str, object]:
    """The logs of a job."""
    session = open_job(path.job)
    craft = session.head(session.snapshot.latest).craft
    return LogList(
        job=path.job,
        title=session.job.title,
        logs=[
            LogLine(
                id=x.id, name=x.name, made_at=x.made_at, started_at=x.started_at,
                duration=words.duration(x.duration_s), rows=words.rows(x.row_count),
                channels=[c.name for c in x.channels],
            )
            for x in store.logs(connection(), path.job)
        ],
        points=[point_out(craft, p.id) for p in craft.points],
    ).model_dump()  # fmt: skip


@logs_api.post("/layout", responses={200: LayoutOut})
def look_at_layout(path: JobPath, body: LayoutAsked) -> dict[str, object]:
    """How a file seems to be laid out, or its first rows by a layout that is given; nothing is kept."""
    open_job(path.job)
    head = body.head.encode()[:LOOKED_AT]
    layout = guess_layout(head) if body.layout is None else _layout(body.layout)
    rows = shown_rows(head, layout)
    return LayoutOut(
        layout=_layout_out(layout),
        rows=[[cell[:60] for cell in row[:20]] for row in rows],
        columns=max((len(row) for row in rows), default=0),
    ).model_dump()


def _layout(said: LayoutIn) -> LogLayout:
    columns = [c.column for c in said.channels]
    if len(set(columns)) < len(columns) or said.time_column in columns:
        raise JobError("channels", "a column stands twice", "each column once")
    if said.time_column is None and said.time_kind != "rows":
        raise JobError("time_column", "is not said", "the column with the time")
    channels = tuple(LogColumn(c.column, c.name, c.unit) for c in said.channels)
    return LogLayout(**{**said.model_dump(), "channels": channels})


def _layout_out(layout: LogLayout) -> LayoutIn:
    channels = [LogColumnIn(**asdict(c)) for c in layout.channels]
    return LayoutIn(**{**asdict(layout), "channels": channels})


@logs_api.post("", responses={201: LogLine})
def bring_in(path: JobPath, query: LogQuery) -> tuple[dict[str, object], int]:
    """Read the CSV in the body as the layout has it, and keep it: whole, or not at all."""
    request.max_content_length = MOST_BYTES
    session = open_job(path.job)
    try:
        said = LayoutIn.model_validate(json.loads(query.layout))
    except (ValueError, ValidationError):
        raise JobError("layout", "is no layout", "one as POST …/logs/layout gives it") from None
    made = logs.bring_log(
        connection(), session, query.id, query.name, request.stream, _layout(said)
    )
    return LogLine(
        id=made.id, name=made.name, made_at=made.made_at, started_at=made.started_at,
        duration=words.duration(made.duration_s), rows=words.rows(made.row_count),
        channels=[c.name for c in made.channels],
    ).model_dump(), 201  # fmt: skip


@logs_api.get("/<string:log>", responses={200: LogOut})
def read_log(path: LogPath) -> dict[str, object]:
    """A log as it is drawn, what was found in it, and the readings taken from it."""
    session = open_job(path.job)
    trace = logs.trace_of(connection(), session, path.log)
    log = logs.samples_of(connection(), path.job, trace)
    craft = session.head(session.snapshot.latest).craft
    whole = logs.Window("whole", 0.0, trace.duration_s)
    windows = logs.figured(log, [whole, *logs.found_windows(trace)])
    return LogOut(
        job=path.job,
        id=trace.id,
        name=trace.name,
        started_at=trace.started_at,
        duration_s=trace.duration_s,
        rows=words.rows(trace.row_count),
        channels=[LogChannelOut(**asdict(c), unit=words.UNITS[c.quantity]) for c in trace.channels],
        seconds=list(trace.seconds),
        least=[list(x) for x in trace.least],
        most=[list(x) for x in trace.most],
        segments=trace.segments,
        windows=[_window_out(each, trace) for each in windows],
        readings=_taken(session, trace),
        stages=_stages(session),
        scenarios=[Point(id=s.id, name=s.name, access="open") for s in craft.scenarios],
    ).model_dump()


def _stages(session: JobSession) -> list[str]:
    """The stages that a reading may be of, the one that the job is at first."""
    both = ["as_found", "as_left"]
    return both[::-1] if "as_left" in session.snapshot.heads else both


def _taken(session: JobSession, trace: LogTrace) -> list[TakenReading]:
    return [
        _taken_out(r.id, r.typed, r.window, trace)
        for r in session.snapshot.readings
        if r.window is not None and r.window.log == trace.id
    ]


def _taken_out(key: str, typed: str, window: LogWindow, trace: LogTrace) -> TakenReading:
    says = words.taken(trace.channels[window.channel].name, window, typed)
    return TakenReading(id=key, typed=typed, says=says)


def _window_out(each: Figured, trace: LogTrace) -> WindowOut:
    shown: list[ChannelFigures | None] = []
    for channel, found in zip(trace.channels, each.figures, strict=True):
        if found is None:
            shown.append(None)
            continue
        said = words.figures(channel.quantity, found)
        shown.append(ChannelFigures(**said))
    window = each.window
    return WindowOut(
        kind=window.kind, name=words.window_name(window.kind, window.number),
        start_s=window.start_s, end_s=window.end_s, figures=shown,
    )  # fmt: skip


@logs_api.get("/<string:log>/csv", responses={200: None})
def log_csv(path: LogPath) -> Response:
    """The samples of a log as CSV: seconds from the first, then every channel in its unit."""
    session = open_job(path.job)
    trace = logs.trace_of(connection(), session, path.log)
    made = csv_of(logs.samples_of(connection(), path.job, trace))
    return attached(made, f"{trace.name}.csv", "text/csv; charset=utf-8")


@logs_api.get("/<string:log>/window", responses={200: FineOut})
def read_window(path: LogPath, query: WindowQuery) -> dict[str, object]:
    """A window picked by hand: its figures, and a finer trace of it."""
    if query.end <= query.start:
        raise JobError("end", "is not after the start", "seconds later than the start")
    session = open_job(path.job)
    trace = logs.trace_of(connection(), session, path.log)
    log = logs.samples_of(connection(), path.job, trace)
    window = logs.figured(log, [logs.Window("picked", query.start, query.end)])[0]
    drawn = _fine(log, query.start, query.end)
    return FineOut(
        window=_window_out(window, trace),
        seconds=[float(s) for s in drawn[0].seconds] if drawn else [],
        least=[_plain(e.least) for e in drawn],
        most=[_plain(e.most) for e in drawn],
    ).model_dump()


def _fine(log: MeterLog, start: float, end: float) -> list[Envelope]:
    where = in_window(log, start, end)
    if where.stop <= where.start:
        return []
    channels = tuple(type(c)(c.name, c.quantity, c.values[where]) for c in log.channels)
    part = MeterLog(log.seconds[where], channels)
    return [envelope(part, i) for i in range(len(channels))]


def _plain(values: "np.ndarray") -> list[float | None]:
    return [float(f"{v:.7g}") if np.isfinite(v) else None for v in values]


@logs_api.post("/<string:log>/points", responses={200: LogLine})
def say_points(path: LogPath, body: PointsIn) -> dict[str, object]:
    """Say between which points a channel was read."""
    session = open_job(path.job)
    trace = logs.trace_of(connection(), session, path.log)
    logs.say_points(connection(), session, trace, body.channel, body.red, body.black)
    return LogLine(
        id=trace.id, name=trace.name, made_at=trace.made_at, started_at=trace.started_at,
        duration=words.duration(trace.duration_s), rows=words.rows(trace.row_count),
        channels=[c.name for c in trace.channels],
    ).model_dump()  # fmt: skip


@logs_api.post("/<string:log>/readings", responses={200: TakenReading})
def take_reading(path: LogPath, body: TakeIn) -> dict[str, object]:
    """Take a figure of a window as a reading. Sent twice it is kept once."""
    session = open_job(path.job)
    trace = logs.trace_of(connection(), session, path.log)
    window = LogWindow(
        log=path.log, channel=body.channel, figure=body.figure, start_s=body.start_s,
        end_s=body.end_s,
    )  # fmt: skip
    typed = Typed(
        id=body.id, stage=body.stage, scenario=body.scenario, quantity="volts", red="", black="",
        typed="", who=body.who, revision=body.revision,
    )  # fmt: skip
    kept = logs.take_from(connection(), caches(), session, trace, window, typed)
    return _taken_out(kept.id, kept.typed, window, trace).model_dump()
