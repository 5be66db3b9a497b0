"""The units and words a person works in. SI inside; this is the edge.

The units of whoever is served stand in a context variable, so that every number that is read or
written meanwhile follows them. Command line and files know nothing of it: they stay SI.
"""

from contextvars import ContextVar
from dataclasses import dataclass
from typing import Literal

FEET_PER_METRE = 1 / 0.3048


@dataclass(frozen=True, slots=True)
class Units:
    """How lengths, sizes, temperatures and small voltages are shown, and how a bare number is read.

    `volts` mV shows what is below 1 V in millivolts; a bare reading is volts all the same.
    `back_word` is what the return side is called, `currency` what stands behind a price.
    """

    length: Literal["m", "ft"] = "m"
    size: Literal["mm2", "awg"] = "mm2"
    temperature: Literal["C", "F"] = "C"
    volts: Literal["V", "mV"] = "V"
    comma: bool = False
    back_word: Literal["return", "ground", "earth", "negative"] = "return"
    currency: str = ""


IN_USE: ContextVar[Units] = ContextVar("IN_USE", default=Units())  # noqa: B039 - it is frozen


def in_use() -> Units:
    """The units of whoever is being served."""
    return IN_USE.get()


def figure(text: str) -> str:
    """A number's text with the decimal mark in use."""
    return text.replace(".", ",") if in_use().comma else text


def number(value: float) -> str:
    """A number as a person would type it: `0.5`, `12`."""
    return figure(f"{value:g}")


def metres(value: float, digits: str = "g") -> str:
    """A length with its unit: `4.8 m`, `15.7 ft`."""
    if in_use().length == "ft":
        return f"{figure(f'{value * FEET_PER_METRE:.4g}')}\u00a0ft"
    return f"{figure(f'{value:{digits}}')}\u00a0m"


def celsius(value: float) -> str:
    """A temperature with its unit, to the degree."""
    if in_use().temperature == "F":
        return f"{figure(f'{value * 9 / 5 + 32:.4g}')}\u00a0\u00b0F"
    return f"{figure(f'{value:.4g}')}\u00a0\u00b0C"
