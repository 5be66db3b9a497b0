"""Figures of a meter's log, with no more digits than they bear."""

from collections.abc import Callable, Mapping

from spare_margin.core.measure.meter_logs import WindowFigures, WindowKind
from spare_margin.core.model.jobs import LogFigure, LogQuantity, LogWindow
from spare_margin.wording.language.figures import (
    Figure,
    ampere_figure,
    count,
    digits,
    fixed,
    second_figure,
    volt_figure,
)

UNITS: Mapping[LogQuantity, str] = {"volts": "V", "amperes": "A", "kelvin": "K", "other": ""}
"""The unit in which each quantity is kept and drawn."""


def _plain(unit: str) -> Callable[[float], Figure]:
    def shown(value: float) -> Figure:
        text = digits(value, 4)
        return Figure(value, text, unit, text)

    return shown


SHOWN: Mapping[LogQuantity, Callable[[float], Figure]] = {
    "volts": volt_figure,
    "amperes": ampere_figure,
    "kelvin": _plain("K"),
    "other": _plain(""),
}


def figures(quantity: LogQuantity, found: WindowFigures) -> dict[str, Figure]:
    """The figures of a channel in a window, by name."""
    shown = SHOWN[quantity]
    return {key: shown(getattr(found, key)) for key in ("least", "most", "mean", "ripple", "drift")}


KINDS: Mapping[WindowKind, str] = {
    "whole": "whole", "picked": "picked", "off": "off", "start": "start", "steady": "steady",
    "change": "change", "quiet": "quiet",
}  # fmt: skip
FIGURES: Mapping[LogFigure, str] = {"mean": "mean", "least": "least", "most": "most"}


def window_name(kind: WindowKind, number: int) -> str:
    """What a window is called: `whole`, `steady 2`."""
    return KINDS[kind] if kind in ("whole", "picked") else f"{KINDS[kind]} {number}"


def rows(number: int) -> str:
    """How many rows a log has."""
    return f"{count(number)} {'row' if number == 1 else 'rows'}"


def taken(channel: str, window: LogWindow, typed: str) -> str:
    """A reading that was taken from a log: `Ring mean 0.4 V (12.0 to 39.0 s)`."""
    start, end = second_figure(window.start_s), second_figure(window.end_s)
    return f"{channel} {FIGURES[window.figure]} {typed} ({start.text} to {end})"


def duration(seconds: float) -> str:
    """How long a log is: `4.2 s`, `12 min`, `3.1 h`."""
    if seconds < 120:
        return f"{digits(seconds, 3)} s"
    if seconds < 7200:
        return f"{fixed(seconds / 60, 0)} min"
    return f"{fixed(seconds / 3600, 1)} h"
