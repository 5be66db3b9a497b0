"""Quantities as text, with the digits, units and decimal mark that the workshop works in.

This is the one place that decides how many digits a number gets.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache, wraps

from spare_margin.wording.language.units import FEET_PER_METRE, Units, figure, in_use

MINUS = "\u2212"
UNKNOWN = "\u2013"


@dataclass(frozen=True, slots=True)
class Figure:
    """A quantity as it is shown: `text` and its `unit`; `brief` for a headline; `si` for pictures."""

    si: float
    text: str
    unit: str
    brief: str

    def __str__(self) -> str:
        return f"{self.text} {self.unit}" if self.unit else self.text


def signed(shown: str) -> str:
    """A figure with a minus sign as it is set in print; nothing below nothing has none."""
    if not shown.startswith("-"):
        return shown
    return MINUS + shown[1:] if shown.strip("-0.,") else shown[1:]


def fixed(value: float, places: int) -> str:
    """A number with so many places.

    >>> fixed(-0.0004, 3)
    '0.000'
    """
    return signed(figure(f"{value:.{places}f}"))


def digits(value: float, most: int) -> str:
    """A number with so many significant digits, never with a power of ten.

    >>> digits(0.01234, 3), digits(1234.5, 3)
    ('0.0123', '1234')
    """
    size = abs(value)
    places = most - 1
    while size >= 10 and places > 0:
        size, places = size / 10, places - 1
    while 0 < size < 1 and places < 9:
        size, places = size * 10, places + 1
    text = f"{value:.{places}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return signed(figure(text))


def _remembered(made: Callable[[float], Figure]) -> Callable[[float], Figure]:
    """Most figures of a page are said several times in it."""

    @lru_cache(maxsize=4096)
    def held(value: float, _: Units) -> Figure:
        return made(value)

    @wraps(made)
    def shown(value: float) -> Figure:
        # Nothing below nothing is nothing: both are one number, and whichever came first would be kept.
        return held(value + 0.0, in_use())

    return shown


@_remembered
def volt_figure(value: float) -> Figure:
    """Volts to the millivolt below 2 V, to the hundredth above; millivolts where they are set."""
    brief = fixed(value, 3 if abs(value) < 0.01 else 2)
    if in_use().volts == "mV" and abs(value) < 1:
        return Figure(value, fixed(value * 1000, 0), "mV", brief)
    return Figure(value, fixed(value, 3 if abs(value) < 2 else 2), "V", brief)


def _as_read(value: float, step: float, usual: Figure) -> Figure:
    """A reading with the digits it was typed with, in the unit in which it is usually shown."""
    if not step:
        return usual
    unit = 1000.0 if usual.unit == "mV" else 1.0
    places = max(0, round(-math.log10(step * unit)))
    return Figure(value, fixed(value * unit, min(places, 6)), usual.unit, usual.brief)


def volts_as_read(value: float, step: float) -> Figure:
    """Volts as they were typed; `step` is what its last digit is worth (V), 0 where nobody knows.

    >>> str(volts_as_read(12.0, 0.01)), str(volts_as_read(1.2, 0.1))
    ('12.00 V', '1.2 V')
    """
    return _as_read(value, step, volt_figure(value))


def amperes_as_read(value: float, step: float) -> Figure:
    """Amperes as they were typed; `step` as of volts."""
    return _as_read(value, step, ampere_figure(value))


def within(shown: Callable[[float], Figure], value: float, doubt: float) -> Figure:
    """A figure that was worked out, with its doubt and no digits beyond it.

    >>> within(ampere_figure, 5.437, 0.31).text
    '5.4 \u00b1 0.4'
    """
    usual = shown(value)
    unit = 1000.0 if usual.unit == "mV" else 1.0
    size = max(doubt * unit, 1e-9)
    places = _places(size, 3)
    up = math.ceil(size * 10**places - 1e-9) / 10**places
    text = f"{fixed(value * unit, places)} \u00b1 {fixed(up, places)}"
    return Figure(value, text, usual.unit, usual.brief)


@_remembered
def ohm_figure(value: float) -> Figure:
    """Ohms with three digits, as milliohms below 1."""
    text, unit = (
        (digits(value, 3), "\u03a9") if value >= 1 else (digits(value * 1000, 3), "m\u03a9")
    )
    return Figure(value, text, unit, text)


def ohm_within(value: float, doubt: float) -> Figure:
    """Milliohms with no more places than their doubt (ohm) leaves.

    >>> ohm_within(0.0788, 0.003).text, ohm_within(0.0788, 0.0003).text
    ('79', '78.8')
    """
    text = fixed(value * 1000, _places(max(doubt, abs(value) * 1e-3) * 1000, 3))
    return Figure(value, text, "m\u03a9", text)


@_remembered
def ampere_figure(value: float) -> Figure:
    """Amperes: hundredths below 10 A, tenths below 100 A."""
    size = abs(value)
    text = fixed(value, 0 if size >= 100 else 1 if size >= 10 else 2)
    return Figure(value, text, "A", text)


def metre_figure(value: float) -> Figure:
    """A length in the workshop's unit: tenths below ten."""
    feet = in_use().length == "ft"
    shown = value * FEET_PER_METRE if feet else value
    text = fixed(shown, 1 if abs(shown) < 10 else 0)
    return Figure(value, text, "ft" if feet else "m", text)


def second_figure(value: float) -> Figure:
    """Seconds to a tenth."""
    text = fixed(value, 1)
    return Figure(value, text, "s", text)


def count(number: int) -> str:
    """A number of things, by thousands.

    >>> count(1234567).replace("\u00a0", "_"), count(999)
    ('1_234_567', '999')
    """
    return f"{number:,}".replace(",", "\u00a0")


def watt_figure(value: float) -> Figure:
    """Watts with three digits."""
    text = digits(value, 3)
    return Figure(value, text, "W", text)


def watt_tenths_figure(value: float) -> Figure:
    """Watts to a tenth: what a change saves is the difference of two larger figures."""
    text = fixed(value, 1)
    return Figure(value, text, "W", text)


def kilogram_figure(value: float) -> Figure:
    """Kilograms to ten grams."""
    text = fixed(value, 2)
    return Figure(value, text, "kg", text)


def percent_figure(share: float) -> Figure:
    """A share as whole per cent."""
    text = fixed(share * 100, 0)
    return Figure(share, text, "%", text)


def volts(value: float) -> str:
    """Volts with their unit: `0.140 V`."""
    return str(volt_figure(value))


def ohms(value: float) -> str:
    """Ohms with their unit: `12.5 m\u03a9`."""
    return str(ohm_figure(value))


def amperes(value: float) -> str:
    """Amperes with their unit: `4.60 A`."""
    return str(ampere_figure(value))


def volts_to(value: float, doubt: float) -> str:
    """Volts with no place finer than their doubt (V).

    >>> volts_to(1.688, 0.15), volts_to(1.688, 0.003)
    ('1.7 V', '1.688 V')
    """
    usual = volt_figure(value)
    if usual.unit == "mV":
        return str(volt_figure(round(value, _places(doubt, 3))))
    places = len(usual.text.partition(figure("."))[2])
    return f"{fixed(value, _places(doubt, places))} V"


def volts_from(least: float, doubt: float) -> str:
    """The least that volts can be, rounded down to a place no finer than their doubt (V).

    >>> volts_from(1.494, 0.15), volts_from(0.0487, 0.002), volts_from(0.04, 0.2)
    ('1.4 V', '0.048 V', '0.04 V')
    """
    places = _places(doubt, 3)
    down = math.floor(least * 10**places + 1e-9) / 10**places
    return volts_to(down, doubt) if down > 0 else about_volts(least)


def _places(doubt: float, most: int) -> int:
    """The decimal places that a doubt leaves, at most so many."""
    return min(max(0, -math.floor(math.log10(max(doubt, 1e-9)))), most)


def about_ohms(value: float) -> str:
    """Ohms that are known only so far, to two digits.

    >>> about_ohms(0.551), about_ohms(4.08)
    ('550 m\u03a9', '4.1 \u03a9')
    """
    return ohms(float(f"{value:.2g}"))


def about_volts(value: float) -> str:
    """Volts that are known only so far, to two digits: `0.4 V`.

    >>> about_volts(0.397), about_volts(7.64)
    ('0.4 V', '7.6 V')
    """
    if in_use().volts == "mV" and abs(value) < 1:
        return f"{digits(float(f'{value:.2g}') * 1000, 3)} mV"
    return f"{digits(value, 2)} V"


def about_amperes(value: float) -> str:
    """Amperes that rest on typical figures, to two digits: `8000 A`.

    >>> about_amperes(8049.2)
    '8000 A'
    """
    return f"{digits(float(f'{value:.2g}'), 4)} A"


def about_watts(value: float) -> str:
    """Watts that are known only so far, to two digits.

    >>> about_watts(5.254), about_watts(128.4)
    ('5.3 W', '130 W')
    """
    return str(watt_figure(float(f"{value:.2g}")))


def watts(value: float) -> str:
    """Watts with their unit."""
    return str(watt_figure(value))


def percent(share: float) -> str:
    """A share as whole per cent: `34 %`."""
    return str(percent_figure(share))


def price(value: float | None) -> str:
    """A price in the workshop's currency; a dash where one is not known."""
    if value is None:
        return UNKNOWN
    currency = in_use().currency
    return figure(fixed(value, 2)) + (f"\u00a0{currency}" if currency else "")


def share_of(part: float, whole: float | None) -> str:
    """A part as per cent of the whole, to be added to a figure; nothing where there is no whole."""
    return f" \u00b7 {percent(part / whole)}" if whole else ""
