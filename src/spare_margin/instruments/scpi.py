"""A meter that answers SCPI (IEEE 488.2), over a network socket or a serial line, through PyVISA."""

import re
import time
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from spare_margin.core.live.samples import LiveQuantity, Mode, Sample

from .link import LinkTrouble

PORT = 5025
"""Where meters answer SCPI on a network."""
TIMEOUT_MS = 1000
OPEN_MS = 3000
MOST_ANSWER = 400
"""Characters of an answer; a meter says less."""
UNASKED_MS = 1
"""How long something that nobody asked for is waited for."""
MOST_UNASKED = 64
"""Lines that are passed over; what sends more does not wait to be asked."""
AT_ONCE, MOST_BYTES = 1024, 16_384
"""Bytes that are looked at together, and of one answer at all."""
ASK_MODE_S = 0.3
"""How often the meter is asked what its switch stands on: too short a time to stand still in."""
OVERLOAD = 9e37
"""SCPI 1999, 7.2.1.5: a figure of 9.9E37 is over the range."""
FUNCTIONS: dict[str, LiveQuantity] = {
    "VOLT": "volts",
    "CURR": "amperes",
    "RES": "ohms",
    "FRES": "ohms",
}
_CONF = re.compile(
    r'^\s*"?(?P<what>[A-Z]+)(?::(?P<mode>AC|DC))?"?\s*(?P<range>[-+.\dE]+)?\s*(?:,\s*(?P<step>[-+.\dE]+))?\s*"?\s*$',
    re.I,
)
_NUMBER = re.compile(r"^\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:E[-+]?\d+)?)", re.I)


def resource_of(address: str) -> str:
    """The VISA resource of an address as people give it: `meter.local:5025`, `/dev/ttyUSB0`, `COM3`.

    LinkTrouble where it is none of these; a VISA resource name stays as it is.
    """
    bare = address.strip()
    if re.match(r"^(TCPIP|ASRL|USB)\d*.*::", bare, re.I):
        return bare
    if bare.startswith("/dev/") or re.match(r"^COM\d+$", bare, re.I):
        return f"ASRL{bare}::INSTR"
    found = re.fullmatch(r"([A-Za-z0-9.-]+|\[[0-9A-Fa-f:]+\])(?::(\d{1,5}))?", bare)
    if found is None or int(found[2] or PORT) > 65535:
        raise LinkTrouble("address", bare)
    return f"TCPIP0::{found[1]}::{found[2] or PORT}::SOCKET"


class ScpiLink:
    """A meter asked for one figure after the other. `library` is the VISA library, pyvisa-py by default."""

    def __init__(
        self, address: str, library: str = "@py", clock: Callable[[], float] = time.monotonic
    ) -> None:
        self._address, self._library, self._clock = address, library, clock
        self._device: Any = None
        self._asked = float("-inf")
        self._stands: tuple[LiveQuantity, Mode, float | None, float | None] = (
            "volts",
            "",
            None,
            None,
        )

    def open(self) -> str:
        """Open it; what it says of itself on `*IDN?`. LinkTrouble where nothing answers there."""
        import pyvisa  # noqa: PLC0415  # half a second, which only a program with a meter spends

        resource = resource_of(self._address)
        try:
            manager: Any = pyvisa.ResourceManager(self._library)
            self._device = manager.open_resource(
                resource,
                read_termination="\n",
                write_termination="\n",
                timeout=TIMEOUT_MS,
                open_timeout=OPEN_MS,
            )
        except Exception as wrong:
            # The driver raises what it likes, where a name is not known or a port is not there.
            busy = "busy" in str(wrong).lower() or "lock" in str(wrong).lower()
            raise LinkTrouble("busy" if busy else "not_there", str(wrong)[:200]) from None
        return self._ask("*IDN?")

    def read(self) -> Sample:
        """What it shows next. LinkTrouble where nothing comes, or no figure."""
        now = self._clock()
        if now - self._asked >= ASK_MODE_S:
            self._asked = now
            self._stands = stands_on(self._ask("CONF?"))
        quantity, mode, range_to, step = self._stands
        text = self._ask("READ?")
        value, shown = number_of(text)
        return Sample(self._clock(), value, step if step else shown, quantity, mode, range_to)

    def close(self) -> None:
        """Close it, whatever happens."""
        # The manager is one for all meters of a library, and stays.
        with suppress(Exception):
            if self._device is not None:
                self._device.close()
        self._device = None

    def _ask(self, question: str) -> str:
        import pyvisa  # noqa: PLC0415

        try:
            with self._device.ignore_warning(pyvisa.constants.StatusCode.success_max_count_read):
                self._pass_over()
                self._device.write(question)
                return self._line()
        except pyvisa.errors.VisaIOError as wrong:
            gone = wrong.error_code != pyvisa.constants.StatusCode.error_timeout
            raise LinkTrouble("not_there" if gone else "silent", question) from None
        except (pyvisa.Error, OSError) as wrong:
            raise LinkTrouble("not_there", str(wrong)[:200]) from None

    def _pass_over(self) -> None:
        """Read what came without being asked for: it would else be taken for the answer."""
        import pyvisa  # noqa: PLC0415

        self._device.timeout = UNASKED_MS
        with suppress(pyvisa.errors.VisaIOError):
            for _ in range(MOST_UNASKED):
                self._device.visalib.read(self._device.session, AT_ONCE)
            raise LinkTrouble("garbled")
        self._device.timeout = TIMEOUT_MS

    def _line(self) -> str:
        """The next line that comes. Of one without an end no more is read than any answer has."""
        came = b""
        while b"\n" not in came:
            part, _ = self._device.visalib.read(self._device.session, AT_ONCE)
            came += part
            if len(came) > MOST_BYTES:
                raise LinkTrouble("garbled", came[:60].decode("ascii", "replace"))
        return came.partition(b"\n")[0][:MOST_ANSWER].decode("ascii", "replace").strip()


def stands_on(answer: str) -> tuple[LiveQuantity, Mode, float | None, float | None]:
    """What a meter's answer to `CONF?` says: what it measures, its mode, the range's end, one count.

    LinkTrouble where it says nothing of the kind.

    >>> stands_on('"VOLT +1.000000E+01,+1.000000E-03"')
    ('volts', 'dc', 10.0, 0.001)
    >>> stands_on("CURR:AC 10,0.01")
    ('amperes', 'ac', 10.0, 0.01)
    """
    found = _CONF.match(answer)
    quantity = FUNCTIONS.get(found["what"].upper()) if found else None
    if found is None or quantity is None:
        raise LinkTrouble("garbled", answer[:60])
    mode: Mode = "ac" if (found["mode"] or "").upper() == "AC" else "dc"
    return quantity, mode, _figure(found["range"]), _figure(found["step"])


def _figure(text: str | None) -> float | None:
    try:
        return float(text) if text else None
    except ValueError:
        return None


def number_of(answer: str) -> tuple[float | None, float]:
    """The figure of an answer, and what its last digit counts; None where it is over the range.

    LinkTrouble where there is none.

    >>> number_of("+4.1230E-01")
    (0.4123, 1e-05)
    >>> number_of("+9.9000E+37")[0] is None
    True
    """
    found = _NUMBER.match(answer)
    if found is None:
        raise LinkTrouble("garbled", answer[:60])
    value = float(found[1])
    if abs(value) >= OVERLOAD:
        return None, 0.0
    mantissa, _, power = found[1].upper().partition("E")
    places = len(mantissa.partition(".")[2])
    return value, float(f"1E{int(power or 0) - places}")
