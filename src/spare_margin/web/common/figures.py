"""Quantities as the API gives them: the number in SI, and how it is shown in the workshop's units.

A field of one of these types holds a number; what goes out is a Figure. So one place decides digits, and
the pages show what they are given.
"""

from typing import Annotated

from pydantic import PlainSerializer

from spare_margin.wording.language.figures import (
    Figure,
    ampere_figure,
    kilogram_figure,
    metre_figure,
    ohm_figure,
    percent_figure,
    second_figure,
    volt_figure,
    watt_tenths_figure,
)

Volts = Annotated[float, PlainSerializer(volt_figure, return_type=Figure)]
Amperes = Annotated[float, PlainSerializer(ampere_figure, return_type=Figure)]
Ohms = Annotated[float, PlainSerializer(ohm_figure, return_type=Figure)]
Metres = Annotated[float, PlainSerializer(metre_figure, return_type=Figure)]
Seconds = Annotated[float, PlainSerializer(second_figure, return_type=Figure)]
Kilograms = Annotated[float, PlainSerializer(kilogram_figure, return_type=Figure)]
WattsSaved = Annotated[float, PlainSerializer(watt_tenths_figure, return_type=Figure)]
Share = Annotated[float, PlainSerializer(percent_figure, return_type=Figure)]
