"""A meter's log as the API shows it: its line in the list, a window's figures, a reading taken from it."""

from spare_margin.core.model.jobs import LogTrace, LogWindow
from spare_margin.service.readings.meter_logs import Figured
from spare_margin.wording.measured import meter_logs as words

from .models import ChannelFigures, LogLine, TakenReading, WindowOut


def line_out(trace: LogTrace) -> LogLine:
    """A log in the list of a job's."""
    return LogLine(
        id=trace.id, name=trace.name, made_at=trace.made_at, started_at=trace.started_at,
        duration=words.duration(trace.duration_s), rows=words.rows(trace.row_count),
        channels=[c.name for c in trace.channels],
    )  # fmt: skip


def window_out(each: Figured, trace: LogTrace) -> WindowOut:
    """A window of a log with the figures of each channel."""
    window = each.window
    return WindowOut(
        kind=window.kind, name=words.window_name(window.kind, window.number),
        start_s=window.start_s, end_s=window.end_s,
        figures=[
            None if found is None else ChannelFigures(**words.figures(channel.quantity, found))
            for channel, found in zip(trace.channels, each.figures, strict=True)
        ],
    )  # fmt: skip


def taken_out(key: str, typed: str, window: LogWindow, trace: LogTrace) -> TakenReading:
    """A reading that was taken from a window of a log."""
    says = words.taken(trace.channels[window.channel].name, window, typed)
    return TakenReading(id=key, typed=typed, says=says)
