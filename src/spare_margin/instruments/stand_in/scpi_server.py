"""The stand-in's own end of the line: SCPI on a socket of this machine and on a pseudo-terminal.

Beside what every meter knows (IEEE 488.2, SCPI 1999) there is a word of its own, TEST, by which its leads
are laid and its troubles made: `TEST:LEADS "live","back"`, `TEST:LIFT`, `TEST:SWITCH VOLT:AC`,
`TEST:SLEEP 1`, `TEST:PLUG 0`, `TEST:CLAMP "id"`, `TEST:POINTS?`; and the craft changed that it reads:
`TEST:FAULT "piece",0.2` (ohms more, or open), `TEST:LOAD "load",off`.
"""

import math
import os
import re
import socket
import time
from contextlib import suppress
from threading import Event, Thread

from spare_margin.core.model.jobs import LoadState

from .meter import StandInMeter, Switch

HOST = "127.0.0.1"
MAKER = "Spare Margin,Stand-in meter,0,1"
"""Its answer to `*IDN?`: maker, model, serial number, version."""
TAKES_S = 0.1
"""How long a figure takes it."""
MOST_LINE = 1000
_SWITCHES: dict[str, Switch] = {
    "VOLT": "volts", "VOLT:DC": "volts", "VOLT:AC": "volts_ac", "CURR": "amperes", "CURR:DC": "amperes",
}  # fmt: skip
_SAID: dict[Switch, str] = {"volts": "VOLT", "volts_ac": "VOLT:AC", "amperes": "CURR"}
_STATES: dict[str, LoadState] = {"on": "running", "off": "off", "unplugged": "unplugged"}
_QUOTED = re.compile(r'"([^"]*)"')


def answer(meter: StandInMeter, line: str) -> str | None:
    """What the meter answers to a line; None where it says nothing, as to a command or while it sleeps."""
    what, _, rest = line.strip().partition(" ")
    word = what.upper()
    if word.startswith("TEST:"):
        return _test(meter, word.removeprefix("TEST:"), rest.strip())
    if meter.asleep or not meter.plugged:
        return None
    if word.startswith(("MEAS:", "CONF:")):
        switch = _SWITCHES.get(word.rstrip("?").partition(":")[2])
        if switch is not None and switch != meter.switch:
            meter.turn(switch)
        return _figure(meter) if word.startswith("MEAS:") and word.endswith("?") else None
    match word:
        case "*IDN?":
            return MAKER
        case "CONF?":
            _, step, end = meter.shown()
            return f'"{_SAID[meter.switch]} {end:+.6E},{step:+.6E}"'
        case "FUNC?":
            return f'"{_SAID[meter.switch]}"'
        case "READ?" | "FETC?":
            return _figure(meter)
        case "SYST:ERR?":
            return '+0,"No error"'
        case _:
            return None


def _figure(meter: StandInMeter) -> str:
    time.sleep(TAKES_S)
    value, step, _ = meter.shown()
    if value is None:
        return "+9.90000000E+37"
    places = max(0, len(f"{step:.7f}".rstrip("0").partition(".")[2]))
    return f"{value:+.{places}f}"


def _test(meter: StandInMeter, word: str, rest: str) -> str | None:
    quoted = _QUOTED.findall(rest)
    if word == "POINTS?":
        return ";".join(f'"{key}","{name}"' for key, name in meter.points().items())
    # What it does not understand it passes over, as a meter does.
    with suppress(KeyError, ValueError, IndexError):
        _do(meter, word, rest, quoted)
    return None


def _do(meter: StandInMeter, word: str, rest: str, quoted: list[str]) -> None:
    last = rest.rpartition(",")[2].strip().lower()
    match word:
        case "LEADS":
            red, black = quoted
            meter.lay(red, black)
        case "LIFT":
            meter.lay("", "")
        case "CLAMP":
            meter.clamp = quoted[0] if quoted else ""
        case "SWITCH":
            meter.turn(_SWITCHES.get(rest.upper(), "volts"))
        case "SLEEP":
            meter.asleep = rest != "0"
        case "PLUG":
            meter.plugged = rest != "0"
        case "FAULT":
            meter.fault(quoted[0], math.inf if last == "open" else float(last))
        case "LOAD":
            meter.command(quoted[0], _STATES[last])


class ScpiServer:
    """Serves one meter on a socket, and on a pseudo-terminal where this system has them.

    Port 0 takes a free one. `terminal` is the path of the pseudo-terminal; empty where there is none.
    """

    def __init__(self, meter: StandInMeter, port: int = 0, terminal: bool = True) -> None:
        self.meter = meter
        self._listening = socket.create_server((HOST, port))
        self.port: int = self._listening.getsockname()[1]
        self._stop = Event()
        self._open: set[socket.socket] = set()
        self.terminal, self._master, self._slave = "", -1, -1
        if terminal and hasattr(os, "openpty"):
            import tty  # noqa: PLC0415  # not every system has it

            self._master, self._slave = os.openpty()
            tty.setraw(self._slave)
            self.terminal = os.ttyname(self._slave)

    def start(self) -> None:
        """Begin to answer, in threads of its own."""
        Thread(target=self._accept, daemon=True, name="stand-in").start()
        if self.terminal:
            Thread(target=self._terminal_serves, daemon=True, name="stand-in terminal").start()

    def stop(self) -> None:
        """Answer no more."""
        self._stop.set()
        with suppress(OSError):
            self._listening.shutdown(socket.SHUT_RDWR)
        self._listening.close()
        for each in list(self._open):
            _cut(each)
        for file in (self._master, self._slave):
            with suppress(OSError):
                if file >= 0:
                    os.close(file)

    def pull(self) -> None:
        """Pull the plug: every connection breaks, and no other is taken until it is plugged in."""
        self.meter.plugged = False
        for each in list(self._open):
            _cut(each)

    def _accept(self) -> None:
        while not self._stop.is_set():
            try:
                came, _ = self._listening.accept()
            except OSError:
                return
            if not self.meter.plugged:
                _cut(came)
                continue
            self._open.add(came)
            Thread(target=self._serve, args=(came,), daemon=True).start()

    def _serve(self, came: socket.socket) -> None:
        with suppress(OSError), came, came.makefile("rb") as lines:
            while line := lines.readline(MOST_LINE):
                text = answer(self.meter, line.decode("ascii", "replace"))
                if not self.meter.plugged:
                    break
                if text is not None:
                    came.sendall(f"{text}\n".encode())
        self._open.discard(came)
        _cut(came)

    def _terminal_serves(self) -> None:
        held = b""
        with suppress(OSError):
            while not self._stop.is_set():
                held += os.read(self._master, MOST_LINE)
                *whole, held = held.split(b"\n")
                held = held[-MOST_LINE:]
                for line in whole:
                    text = answer(self.meter, line.decode("ascii", "replace"))
                    if text is not None:
                        os.write(self._master, f"{text}\n".encode())


def _cut(held: socket.socket) -> None:
    with suppress(OSError):
        held.shutdown(socket.SHUT_RDWR)
    held.close()
