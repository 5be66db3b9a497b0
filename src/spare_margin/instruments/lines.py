"""A meter that sends lines of text by itself, over a serial port, through pyserial."""

import re
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from typing import Any

from spare_margin.core.live.samples import LiveQuantity, Mode, Sample

from .link import LinkTrouble

BAUD = 9600
TIMEOUT_S = 1.0
"""A meter that sends is silent when nothing came for so long."""
MOST_LINE = 400
"""Characters of a line; what is longer is no line of a meter's."""
AT_ONCE = 65_536
"""Bytes that are looked at together; of a flood the newest line counts."""
UNITS: dict[str, tuple[LiveQuantity, float]] = {
    "V": ("volts", 1.0), "MV": ("volts", 1e-3), "UV": ("volts", 1e-6), "KV": ("volts", 1e3),
    "A": ("amperes", 1.0), "MA": ("amperes", 1e-3), "UA": ("amperes", 1e-6),
    "OHM": ("ohms", 1.0), "OHMS": ("ohms", 1.0), "\u03a9": ("ohms", 1.0), "KOHM": ("ohms", 1e3),
    "K\u03a9": ("ohms", 1e3), "M\u03a9": ("ohms", 1e6), "MOHM": ("ohms", 1e6),
}  # fmt: skip
_FIGURE = re.compile(
    r"(?<![\w.])([-+]?\s?(?:\d+[.,]?\d*|[.,]\d+)(?:E[-+]?\d+)?|[-+]?OL|OVLD|OVERLOAD)\s*"
    r"([numk\u00b5\u03bc]?(?:V|A|OHMS?|\u03a9))?(?![A-Za-z])\s*(AC|DC)?",
    re.I,
)
_NO_FIGURE = re.compile(r"O\.?L|OVLD|OVERLOAD", re.I)


@dataclass(frozen=True, slots=True)
class LinePattern:
    """Which figure of a line is the reading, and what it is in where the line does not say.

    Attributes:
        figure: which of the figures of a line, from 0.
        unit: a key of UNITS.
    """

    figure: int = 0
    unit: str = "V"


@dataclass(frozen=True, slots=True)
class Choice:
    """A figure of an example line: which one, its text, and the unit the line says; empty where none."""

    figure: int
    text: str
    unit: str


def choices(line: str) -> list[Choice]:
    """The figures of an example line, for a person to say which of them is the reading.

    >>> choices("CH1,+00.412,V,DC")
    [Choice(figure=0, text='+00.412', unit='')]
    >>> choices("12:04:05 0.412 V")[-1]
    Choice(figure=3, text='0.412', unit='V')
    """
    return [
        Choice(i, found[1].strip(), _unit(found[2]))
        for i, found in enumerate(_FIGURE.finditer(line[:MOST_LINE]))
    ]


def understood(line: str, pattern: LinePattern, at_s: float) -> Sample:
    """A line as a sample.

    Args:
        line: what the meter sent.
        pattern: which of its figures is the reading.
        at_s: when it came (s).

    LinkTrouble where there is no such figure in it.
    """
    found = list(_FIGURE.finditer(line[:MOST_LINE]))
    if len(found) <= pattern.figure:
        raise LinkTrouble("garbled", line[:60])
    figure = found[pattern.figure]
    quantity, times = UNITS[_unit(figure[2]) or pattern.unit]
    mode: Mode = "ac" if re.search(r"\bAC\b", line, re.I) else "dc"
    text = figure[1].replace(" ", "").replace(",", ".")
    if _NO_FIGURE.search(text):
        return Sample(at_s, None, 0.0, quantity, mode)
    mantissa, _, power = text.upper().partition("E")
    places = len(mantissa.partition(".")[2])
    step = 10.0 ** (int(power or 0) - places) * times
    return Sample(at_s, float(text) * times, step, quantity, mode)


def _unit(said: str | None) -> str:
    bare = (said or "").replace("\u00b5", "u").replace("\u03bc", "u").strip()
    if bare in ("M\u03a9", "MOhm", "Mohm"):
        return "M\u03a9"
    key = bare.upper()
    return key if key in UNITS else ""


class LineLink:
    """A meter that sends by itself. `address` is a serial port."""

    def __init__(
        self,
        address: str,
        pattern: LinePattern,
        baud: int = BAUD,
        clock: Callable[[], float] = time.monotonic,
    ) -> None:
        self._address, self._pattern, self._baud, self._clock = address, pattern, baud, clock
        self._port: Any = None
        self._rest = b""

    def open(self) -> str:
        """Open it; the first whole line it sends. LinkTrouble where no such port is, or it is taken."""
        import serial  # noqa: PLC0415  # only a program with a meter needs it

        if "://" in self._address:
            # Some that pyserial knows write files: a port is a port.
            raise LinkTrouble("address", self._address[:100])
        try:
            self._port = serial.serial_for_url(
                self._address, baudrate=self._baud, timeout=0.1, exclusive=True
            )
        except ValueError:
            raise LinkTrouble("address", self._address[:100]) from None
        except (serial.SerialException, OSError) as wrong:
            busy = "lock" in str(wrong).lower() or "busy" in str(wrong).lower()
            raise LinkTrouble("busy" if busy else "not_there", str(wrong)[:200]) from None
        return self.line()

    def line(self) -> str:
        """The newest whole line that came. LinkTrouble where none comes in time."""
        import serial  # noqa: PLC0415

        until = self._clock() + TIMEOUT_S
        while self._clock() < until:
            try:
                came = self._port.read(max(1, min(self._port.in_waiting, AT_ONCE)))
            except (serial.SerialException, OSError) as wrong:
                raise LinkTrouble("not_there", str(wrong)[:200]) from None
            parts = re.split(rb"[\r\n]+", self._rest + came)
            self._rest = parts[-1][-MOST_LINE:]
            whole = [part for part in parts[:-1] if part.strip()]
            if whole:
                return whole[-1][:MOST_LINE].decode("utf-8", "replace")
        raise LinkTrouble("silent")

    def read(self) -> Sample:
        """What it sent last. LinkTrouble where nothing comes, or no figure."""
        return understood(self.line(), self._pattern, self._clock())

    def close(self) -> None:
        """Close it, whatever happens."""
        with suppress(Exception):
            if self._port is not None:
                self._port.close()
        self._port = None


def ports() -> list[tuple[str, str]]:
    """The serial ports of this machine, each with what it says of itself."""
    from serial.tools import list_ports  # noqa: PLC0415

    return sorted((port.device, port.description or "") for port in list_ports.comports())
