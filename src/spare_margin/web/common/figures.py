"""Quantities as the API gives them: the number in SI, and how it is shown in the workshop's units.

A field of one of these types holds a number; what goes out is a Figure. So one place decides digits, and
the pages show what they are given.
"""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, PlainSerializer

from spare_margin.wording.language import figures


class Figure(BaseModel):
    """A quantity: `si` for pictures and comparisons, `text` with its `unit`, `brief` for a headline."""

    model_config = ConfigDict(extra="forbid")

    si: float
    text: str
    unit: str
    brief: str


def figure_of(shown: figures.Figure) -> Figure:
    """A figure as the API gives it."""
    return Figure(si=shown.si, text=shown.text, unit=shown.unit, brief=shown.brief)


def _volts(value: float) -> Figure:
    return figure_of(figures.volt_figure(value))


def _amperes(value: float) -> Figure:
    return figure_of(figures.ampere_figure(value))


def _ohms(value: float) -> Figure:
    return figure_of(figures.ohm_figure(value))


def _metres(value: float) -> Figure:
    return figure_of(figures.metre_figure(value))


def _kilograms(value: float) -> Figure:
    return figure_of(figures.kilogram_figure(value))


def _watts_saved(value: float) -> Figure:
    return figure_of(figures.watt_tenths_figure(value))


def _share(value: float) -> Figure:
    return figure_of(figures.percent_figure(value))


Volts = Annotated[float, PlainSerializer(_volts, return_type=Figure)]
Amperes = Annotated[float, PlainSerializer(_amperes, return_type=Figure)]
Ohms = Annotated[float, PlainSerializer(_ohms, return_type=Figure)]
Metres = Annotated[float, PlainSerializer(_metres, return_type=Figure)]
Kilograms = Annotated[float, PlainSerializer(_kilograms, return_type=Figure)]
WattsSaved = Annotated[float, PlainSerializer(_watts_saved, return_type=Figure)]
Share = Annotated[float, PlainSerializer(_share, return_type=Figure)]
