"""Meters' logs of a job: looked at, brought in, shown, figured, taken readings from."""

from dataclasses import asdict

from flask import Response, request
from pydantic import BaseModel

from spare_margin.core.measure.meter_logs import MeterLog
from spare_margin.core.model.jobs import LogTrace, LogWindow
from spare_margin.exchange.meter_log_csv import LOOKED_AT, csv_of, guess_layout, shown_rows
from spare_margin.service.job.session import JobSession
from spare_margin.service.readings import meter_logs as logs
from spare_margin.service.readings.taking import Typed
from spare_margin.store import meter_logs as store
from spare_margin.web.common.area import area
from spare_margin.web.common.context import JobPath, caches, connection, open_job
from spare_margin.web.common.downloads import attached
from spare_margin.web.common.models import Point
from spare_margin.web.common.parts import point_out
from spare_margin.wording.measured import meter_logs as words

from .models import (
    FineOut,
    LayoutAsked,
    LayoutOut,
    LogChannelOut,
    LogLine,
    LogList,
    LogOut,
    LogQuery,
    PointsIn,
    TakeIn,
    TakenReading,
    WindowQuery,
)
from .view import line_out, taken_out, window_out

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
        logs=[line_out(trace) for trace in store.logs(connection(), path.job)],
        points=[point_out(craft, p.id) for p in craft.points],
    ).model_dump()


@logs_api.post("/layout", responses={200: LayoutOut})
def look_at_layout(path: JobPath, body: LayoutAsked) -> dict[str, object]:
    """How a file seems to be laid out, or its first rows by a layout that is given; nothing is kept."""
    open_job(path.job)
    head = body.head.encode()[:LOOKED_AT]
    layout = body.layout or guess_layout(head)
    rows = shown_rows(head, layout)
    return LayoutOut(
        layout=layout,
        rows=[[cell[:60] for cell in row[:20]] for row in rows],
        columns=max((len(row) for row in rows), default=0),
    ).model_dump()


@logs_api.post("", responses={201: LogLine})
def bring_in(path: JobPath, query: LogQuery) -> tuple[dict[str, object], int]:
    """Read the CSV in the body as the layout has it, and keep it: whole, or not at all."""
    request.max_content_length = MOST_BYTES
    session = open_job(path.job)
    made = logs.bring_log(connection(), session, query.id, query.name, request.stream, query.layout)
    return line_out(made).model_dump(), 201


def _opened(path: LogPath) -> tuple[JobSession, LogTrace, MeterLog]:
    """The job that an address names, its log and the samples of that."""
    session = open_job(path.job)
    trace = logs.trace_of(connection(), session, path.log)
    return session, trace, logs.samples_of(connection(), path.job, trace)


@logs_api.get("/<string:log>", responses={200: LogOut})
def read_log(path: LogPath) -> dict[str, object]:
    """A log as it is drawn, what was found in it, and the readings taken from it."""
    session, trace, log = _opened(path)
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
        seconds=trace.seconds,
        least=trace.least,
        most=trace.most,
        segments=trace.segments,
        windows=[window_out(each, trace) for each in windows],
        readings=[
            taken_out(r.id, r.typed, r.window, trace)
            for r in session.snapshot.readings
            if r.window is not None and r.window.log == trace.id
        ],
        stages=session.snapshot.measured_stages,
        scenarios=[Point(id=s.id, name=s.name, access="open") for s in craft.scenarios],
    ).model_dump()


@logs_api.get("/<string:log>/csv", responses={200: None})
def log_csv(path: LogPath) -> Response:
    """The samples of a log as CSV: seconds from the first, then every channel in its unit."""
    _, trace, log = _opened(path)
    return attached(csv_of(log), f"{trace.name}.csv", "text/csv; charset=utf-8")


@logs_api.get("/<string:log>/window", responses={200: FineOut})
def read_window(path: LogPath, query: WindowQuery) -> dict[str, object]:
    """A window picked by hand: its figures, and a finer trace of it."""
    _, trace, log = _opened(path)
    figures, drawn = logs.picked(log, query.start, query.end)
    return FineOut(window=window_out(figures, trace), **asdict(drawn)).model_dump()


@logs_api.post("/<string:log>/points", responses={200: LogLine})
def say_points(path: LogPath, body: PointsIn) -> dict[str, object]:
    """Say between which points a channel was read."""
    session = open_job(path.job)
    trace = logs.trace_of(connection(), session, path.log)
    logs.say_points(connection(), session, trace, body.channel, body.red, body.black)
    return line_out(trace).model_dump()


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
    return taken_out(kept.id, kept.typed, window, trace).model_dump()
