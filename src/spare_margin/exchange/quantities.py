"""Numbers as people type them: `0.14`, `,14`, `140m`, `140 mV`, `12 ft`, `10 AWG`, `OL`.

Pint knows the units; this module knows the habits.
"""

import math
import re
from dataclasses import dataclass
from decimal import Decimal
from functools import cache
from typing import TYPE_CHECKING, Literal

from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import ReadingState
from spare_margin.core.model.meters import typed_step
from spare_margin.core.model.pieces import Size
from spare_margin.wording.language.units import in_use

if TYPE_CHECKING:
    import pint

Kind = Literal["volts", "amperes", "ohms", "metres", "celsius", "watts", "times"]
_SI: dict[Kind, str] = {
    "volts": "volt",
    "amperes": "ampere",
    "ohms": "ohm",
    "metres": "meter",
    "celsius": "degC",
    "watts": "watt",
    "times": "",
}
_EXAMPLES: dict[Kind, str] = {
    "volts": "volts, e.g. 0.14, 140 mV or OL",
    "amperes": "amperes, e.g. 5.8 or 350 mA",
    "ohms": "ohms, e.g. 0.012 or 12 m\u03a9",
    "metres": "metres, e.g. 5.2, 520 cm or 17 ft",
    "watts": "watts, e.g. 58 or 1.2 kW",
    "times": "a number, e.g. 4",
    "celsius": "a temperature, e.g. 25 or 77 \u00b0F",
}
_WORDS: dict[str, ReadingState] = {
    "ol": "over_range",
    "o.l": "over_range",
    "o.l.": "over_range",
    "0l": "over_range",
    "over": "over_range",
    "overrange": "over_range",
    "over range": "over_range",
    "wandering": "wandering",
    "wanders": "wandering",
    "float": "wandering",
    "floating": "wandering",
    "x": "not_reachable",
    "cannot reach": "not_reachable",
    "not reachable": "not_reachable",
    "unreachable": "not_reachable",
}
_NUMBER = re.compile(r"^\s*([-+\u2212]?\s*(?:\d[\d ]*)?[.,]?\d*(?:[eE][-+]?\d{1,3})?)\s*(.*?)\s*$")


_RANGE = re.compile(
    r"^\s*(\d+[.,]?\d*)\s*(?:-|\u2013|\.\.|to)\s*(\d+[.,]?\d*)\s*([A-Za-z\u00b5\u03bc\u03a9]*)\s*$"
)


_METRES_AND = re.compile(r"^\s*(\d+)\s*m\s*(\d\d)\s*$", re.I)
"""Metres and centimetres, as a carpenter says them: 3m50."""


@dataclass(frozen=True, slots=True)
class Understood:
    """What was typed, in SI: a value, or the state that stands for one; and the last digit's worth.

    `spread` is half of what a flickering display went to and fro, as `0.2-0.3` is typed.
    """

    value: float | None
    state: ReadingState
    step: float = 0.0
    spread: float = 0.0


@cache
def _units() -> "pint.UnitRegistry[float]":
    # A tenth of a second, and two more to read all units: the program's start need not wait for them.
    import pint  # noqa: PLC0415

    return pint.UnitRegistry(autoconvert_offset_to_baseunit=True)


def learn_units() -> None:
    """Read all units now, rather than at the first quantity typed."""
    _units()


def understand(text: str, kind: Kind, field: str, *, words: bool = False) -> Understood:
    """Read a quantity. With `words`, states such as OL and wandering are taken too.

    Raises JobError naming `field` for anything else.
    """
    plain = " ".join(text.strip().lower().split())
    if words and plain in _WORDS:
        return Understood(None, _WORDS[plain])
    wrong = JobError(field, f"\u201c{_cut(text)}\u201d is not understood", _EXAMPLES[kind])
    if words and (range_ := _RANGE.match(text)):
        return _range(range_, kind, field)
    if kind == "metres" and (both := _METRES_AND.match(text)):
        text = f"{both[1]}.{both[2]} m"
    match = _NUMBER.match(text)
    if match is None or not any(c.isdigit() for c in match[1]):
        raise wrong
    digits = match[1].replace("\u2212", "-").replace(" ", "")
    if digits.count(",") + digits.count(".") > 1:
        raise wrong
    digits = digits.replace(",", ".")
    try:
        value = float(digits)
    except ValueError:
        raise wrong from None
    factor, offset = _to_si(match[2], kind, wrong)
    # In decimals, as it was typed: 350 m is 0.35, not 0.35000000000000003.
    si = float(Decimal(digits) * Decimal(repr(factor)) + Decimal(repr(offset)))
    step = typed_step(digits) * factor
    if not (math.isfinite(value) and math.isfinite(si) and math.isfinite(step)):
        raise JobError(field, "the number is too large", _EXAMPLES[kind])
    return Understood(si, "value", step)


def _range(match: re.Match[str], kind: Kind, field: str) -> Understood:
    """A display that goes to and fro between two figures: their middle, and half of what lies between."""
    low = understand(match[1] + match[3], kind, field)
    high = understand(match[2] + match[3], kind, field)
    assert low.value is not None
    assert high.value is not None
    middle = (Decimal(repr(low.value)) + Decimal(repr(high.value))) / 2
    return Understood(float(middle), "value", low.step, abs(high.value - low.value) / 2)


def _bare_unit(kind: Kind) -> str:
    """The unit of a number that was typed without one, where a person works in feet or degrees F."""
    if kind == "metres" and in_use().length == "ft":
        return "ft"
    return "F" if kind == "celsius" and in_use().temperature == "F" else ""


def _to_si(unit: str, kind: Kind, wrong: JobError) -> tuple[float, float]:
    """Factor and offset that bring a typed unit to SI."""
    si = _SI[kind]
    unit = unit.strip() or _bare_unit(kind)
    if not unit or (kind == "times" and unit in ("x", "\u00d7")):
        return 1.0, 0.0
    if unit == "m" and kind != "metres":
        return 1e-3, 0.0
    if kind == "celsius":
        scale = unit.lstrip("\u00b0 ").lower()
        if scale in ("f", "fahrenheit"):
            return 5 / 9, -160 / 9
        if scale in ("c", "celsius"):
            return 1.0, 0.0
        raise wrong
    unit = {"\u2032": "ft", "'": "ft", '"': "inch", "\u2033": "inch"}.get(unit, unit)
    unit = re.sub(r"^amps?$", "A", unit, flags=re.I)
    unit = (
        unit.replace("\u03a9", "ohm")
        .replace("\u2126", "ohm")
        .replace("R", "ohm" if kind == "ohms" else "R")
    )
    if not re.fullmatch(r"[A-Za-z\u00b5\u03bc]{1,12}", unit):
        raise wrong
    for name in (unit, unit.lower(), unit[:-1] + unit[-1:].upper()):
        try:
            return float(_units().Quantity(1.0, name).to(si).magnitude), 0.0
        except (AttributeError, TypeError, ValueError):
            # No such unit is an AttributeError of pint's, one of something else a TypeError.
            continue
    raise wrong


_SIZE = re.compile(
    r"^\s*(?:awg\s*|#)?(\d+(?:[.,]\d+)?(?:/0)?)\s*(mm2|mm\u00b2|mm\^2|sqmm|qmm|mm|awg|ga|gauge)?(\s+road)?\s*$",
    re.I,
)


def understand_size(text: str, field: str, system: str, finish: str) -> Size:
    """A conductor size such as `10 AWG`, `2/0`, `2,5` or `1.25 mm\u00b2 road`.

    A bare number keeps `system`; mm\u00b2 keep it where it is one of theirs.
    """
    match = _SIZE.match(text)
    if match is None:
        raise JobError(
            field, f"\u201c{_cut(text)}\u201d is no size", "a size as 2.5 mm\u00b2 or 10 AWG"
        )
    value, unit = match[1].replace(",", "."), (match[2] or "").lower()
    if (
        unit in ("awg", "ga", "gauge")
        or text.strip().lower().startswith(("awg", "#"))
        or "/0" in value
    ):
        return Size("awg", value, "plain")
    if match[3]:
        system = "mm2-road"
    elif unit and system == "awg":
        system = "mm2"
    if "." in value:
        value = value.rstrip("0").rstrip(".")
    return Size(system, value, finish)


def _cut(text: str) -> str:
    return text if len(text) <= 40 else text[:37] + "..."
