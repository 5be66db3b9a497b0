"""Meters that send lines: which figure is the reading, floods, garbage, silence."""

import os
import tty
from collections.abc import Iterator
from contextlib import closing, suppress
from threading import Event, Thread

import pytest
from hypothesis import given
from hypothesis import strategies as st

from spare_margin.instruments.lines import LineLink, LinePattern, choices, understood
from spare_margin.instruments.link import LinkTrouble


class Sender:
    """A meter on a pseudo-terminal that sends `text` over and over."""

    def __init__(self) -> None:
        self.master, self._slave = os.openpty()
        tty.setraw(self._slave)
        os.set_blocking(self.master, False)
        self.port = os.ttyname(self._slave)
        self.text = b""
        self._stop = Event()
        self._thread = Thread(target=self._send, daemon=True)
        self._thread.start()

    def _send(self) -> None:
        while not self._stop.wait(0.01):
            with suppress(BlockingIOError):
                os.write(self.master, self.text)

    def close(self) -> None:
        self._stop.set()
        self._thread.join()
        for file in (self.master, self._slave):
            os.close(file)


@pytest.fixture
def sender() -> Iterator[Sender]:
    with closing(Sender()) as made:
        yield made


@pytest.mark.parametrize(
    ("line", "pattern", "value", "quantity"),
    [
        ("0.412 V DC", LinePattern(), 0.412, "volts"),
        ("+412.0mV", LinePattern(), 0.412, "volts"),
        ("CH1,+00.412,V,DC", LinePattern(), 0.412, "volts"),
        ("  412", LinePattern(0, "MV"), 0.412, "volts"),
        ("t=12 s, 3,5 A", LinePattern(1), 3.5, "amperes"),
        ("1.2E-3", LinePattern(), 0.0012, "volts"),
        ("4.7 k\u03a9", LinePattern(), 4700.0, "ohms"),
        ("2.2 M\u03a9", LinePattern(), 2.2e6, "ohms"),
        ("- 0.05 V", LinePattern(), -0.05, "volts"),
    ],
)
def test_lines_as_meters_send_them(
    line: str, pattern: LinePattern, value: float, quantity: str
) -> None:
    sample = understood(line, pattern, 0.0)
    assert sample.value == pytest.approx(value)
    assert sample.quantity == quantity


def test_over_the_range_and_alternating_are_told() -> None:
    assert understood("OL V", LinePattern(), 0.0).value is None
    assert understood("230.1 V AC", LinePattern(), 0.0).mode == "ac"
    with pytest.raises(LinkTrouble):
        understood("no figure", LinePattern(), 0.0)


def test_a_person_picks_the_figure_out_of_an_example() -> None:
    found = choices("12:04:05;0.412 V;23.1 C")
    assert [c.text for c in found][3] == "0.412"
    assert found[3].unit == "V"


def until(link: LineLink, value: float) -> None:
    """Reads until this is shown."""
    for _ in range(1000):
        if link.read().value == pytest.approx(value):
            return
    raise AssertionError(f"never {value}")


def test_what_is_sent_now_counts(sender: Sender) -> None:
    sender.text = b"0.100 V\n"
    with closing(LineLink(sender.port, LinePattern())) as link:
        assert link.open() == "0.100 V"
        sender.text = b"0.200 V\r\n"
        until(link, 0.2)


def test_a_flood_is_no_trouble(sender: Sender) -> None:
    sender.text = b"0.100 V\n" * 2000
    with closing(LineLink(sender.port, LinePattern())) as link:
        link.open()
        sender.text = b"0.300 V\n" * 2000
        until(link, 0.3)


def test_a_line_without_an_end_is_no_line_and_costs_no_memory(sender: Sender) -> None:
    sender.text = b"9" * 4000
    with closing(LineLink(sender.port, LinePattern())) as link:
        with pytest.raises(LinkTrouble) as silent:
            link.open()
        assert silent.value.wrong == "silent"
        assert len(link._rest) <= 400
        sender.text = b"\n0.200 V\n"
        until(link, 0.2)


def test_silence_and_no_such_port_are_said(sender: Sender) -> None:
    with (
        closing(LineLink(sender.port, LinePattern())) as link,
        pytest.raises(LinkTrouble) as silent,
    ):
        link.open()
    assert silent.value.wrong == "silent"
    with closing(LineLink("spy:///dev/null?file=/tmp/x", LinePattern())) as link:
        with pytest.raises(LinkTrouble) as refused:
            link.open()
        assert refused.value.wrong == "address"
    with closing(LineLink("/dev/no-such", LinePattern())) as link:
        with pytest.raises(LinkTrouble) as gone:
            link.open()
        assert gone.value.wrong == "not_there"


def test_two_programs_on_one_port_is_said(sender: Sender) -> None:
    sender.text = b"0.1 V\n"
    with closing(LineLink(sender.port, LinePattern())) as first:
        first.open()
        with closing(LineLink(sender.port, LinePattern())) as second:
            with pytest.raises(LinkTrouble) as taken:
                second.open()
            assert taken.value.wrong == "busy"


@given(st.text(max_size=500), st.integers(0, 3))
def test_no_line_breaks_the_reader(line: str, figure: int) -> None:
    choices(line)
    with suppress(LinkTrouble):
        understood(line, LinePattern(figure), 0.0)
