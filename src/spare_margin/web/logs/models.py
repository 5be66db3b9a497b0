"""What the API takes and gives of meters' logs."""

from collections.abc import Sequence
from typing import Annotated

from pydantic import Field, Json

from spare_margin.core.measure.meter_logs import WindowKind
from spare_margin.core.model.jobs import LogFigure, LogQuantity, LogSegment, MeasuredStage
from spare_margin.core.model.values import DeviceId
from spare_margin.exchange.meter_log_csv import LogColumn, LogLayout
from spare_margin.web.common.figures import Seconds
from spare_margin.web.common.models import Model, Point, Who, as_told
from spare_margin.wording.language.figures import Figure

as_told(LogColumn)
as_told(LogLayout)


class LayoutAsked(Model):
    """The first bytes of a file as text, and a layout to look at it with instead of the one guessed."""

    head: Annotated[str, Field(max_length=100_000)]
    layout: LogLayout | None = None


class LayoutOut(Model):
    """A layout, and the first rows as it cuts them."""

    layout: LogLayout
    rows: list[list[str]]
    columns: int


class LogQuery(Model):
    """The id of a new log, made on the device, its name, and its layout as JSON."""

    id: DeviceId
    name: Annotated[str, Field(max_length=200)]
    layout: Json[LogLayout]


class LogChannelOut(Model):
    """A channel of a log; `unit` is that of its trace."""

    name: str
    quantity: LogQuantity
    unit: str
    red: str
    black: str
    meter: str


class LogLine(Model):
    """A log in the list of a job's."""

    id: str
    name: str
    made_at: str
    started_at: str | None
    duration: str
    rows: str
    channels: list[str]


class LogList(Model):
    """The logs of a job, and the test points between which a channel may have been read."""

    job: str
    title: str
    logs: list[LogLine]
    points: list[Point]


class ChannelFigures(Model):
    """Figures of a channel in a window."""

    least: Figure
    most: Figure
    mean: Figure
    ripple: Figure
    drift: Figure


class WindowOut(Model):
    """A window of a log with the figures of each channel; null where it has none there."""

    kind: WindowKind
    name: str
    start_s: Seconds
    end_s: Seconds
    figures: list[ChannelFigures | None]


class TakenReading(Model):
    """A reading that was taken from a log."""

    id: str
    typed: str
    says: str


class LogOut(Model):
    """A log as it is drawn: least and most of every channel from one of `seconds` to the next."""

    job: str
    id: str
    name: str
    started_at: str | None
    duration_s: float
    rows: str
    channels: list[LogChannelOut]
    seconds: Sequence[float]
    least: Sequence[Sequence[float | None]]
    most: Sequence[Sequence[float | None]]
    segments: tuple[LogSegment, ...]
    windows: list[WindowOut]
    readings: list[TakenReading]
    stages: list[MeasuredStage]
    scenarios: list[Point]


class WindowQuery(Model):
    """A window (s)."""

    start: Annotated[float, Field(ge=0)]
    end: Annotated[float, Field(ge=0)]


class FineOut(Model):
    """A window picked by hand: its figures, and its own trace, finer than that of the whole."""

    window: WindowOut
    seconds: Sequence[float]
    least: Sequence[Sequence[float | None]]
    most: Sequence[Sequence[float | None]]


class PointsIn(Model):
    """On which point a lead of a channel was; empty: nobody says. A lead not named stays where it is."""

    channel: Annotated[int, Field(ge=0, le=100)]
    red: str | None = None
    black: str | None = None


class TakeIn(Model):
    """A figure of a window to be taken as a reading."""

    id: DeviceId
    stage: MeasuredStage
    scenario: str
    channel: Annotated[int, Field(ge=0, le=100)]
    figure: LogFigure
    start_s: Annotated[float, Field(ge=0)]
    end_s: Annotated[float, Field(ge=0)]
    who: Who = ""
    revision: str | None = None
