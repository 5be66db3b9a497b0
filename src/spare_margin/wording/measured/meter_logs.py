"""Figures of a meter's log, with no more digits than they bear."""

from collections.abc import Callable, Mapping

from spare_margin.core.measure.meter_logs import WindowFigures
from spare_margin.core.model.jobs import LogQuantity
from spare_margin.wording.language.figures import Figure, ampere_figure, digits, fixed, volt_figure

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


def duration(seconds: float) -> str:
    """How long a log is: `4.2 s`, `12 min`, `3.1 h`."""
    if seconds < 120:
        return f"{digits(seconds, 3)} s"
    if seconds < 7200:
        return f"{fixed(seconds / 60, 0)} min"
    return f"{fixed(seconds / 3600, 1)} h"
