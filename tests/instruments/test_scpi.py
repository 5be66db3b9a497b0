"""SCPI meters through the real PyVISA: against the stand-in, and against what no meter should answer."""

import socket
import tracemalloc
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager, suppress
from pathlib import Path
from threading import Event, Thread

import pytest
from hypothesis import given
from hypothesis import strategies as st

from spare_margin.core.live.samples import Sample
from spare_margin.instruments.link import LinkTrouble
from spare_margin.instruments.scpi import ScpiLink, number_of, resource_of, stands_on
from spare_margin.instruments.stand_in.meter import StandInMeter
from spare_margin.instruments.stand_in.scpi_server import MAKER
from tests.instruments.stand_ins import served, sound_world


def read_settled(link: ScpiLink) -> Sample:
    """What it shows once it has settled."""
    return [link.read() for _ in range(6)][-1]


@pytest.mark.parametrize("by", ["socket", "terminal"])
def test_the_stand_in_is_read_as_a_meter_is(by: str) -> None:
    with served() as server:
        address = f"127.0.0.1:{server.port}" if by == "socket" else server.terminal
        link = ScpiLink(address)
        with closing(link):
            assert link.open() == MAKER
            source = server.meter.world.run.source
            server.meter.lay(source.live, source.back)
            sample = read_settled(link)
            solved = server.meter.world.solved("m1", 1)
            assert solved is not None
            true = solved.solution.volts(source.live, source.back)
            assert sample.value == pytest.approx(true, rel=0.01)
            assert (sample.quantity, sample.mode, sample.range_to) == ("volts", "dc", 60.0)
            assert sample.step == pytest.approx(0.01)


def test_leads_in_the_air_wander() -> None:
    with served() as server, closing(ScpiLink(f"127.0.0.1:{server.port}")) as link:
        link.open()
        shown = [link.read().value or 0.0 for _ in range(6)]
        assert max(shown) - min(shown) > 0.02
        assert max(map(abs, shown)) < 0.15


def test_another_switch_is_told() -> None:
    clock = iter(n * 2.0 for n in range(1000))
    with served() as server:
        link = ScpiLink(f"127.0.0.1:{server.port}", clock=lambda: next(clock))
        with closing(link):
            link.open()
            assert link.read().mode == "dc"
            server.meter.turn("volts_ac")
            assert link.read().mode == "ac"
            server.meter.turn("amperes")
            assert link.read().quantity == "amperes"


def test_a_meter_asleep_is_silent_and_one_pulled_out_is_gone() -> None:
    with served() as server, closing(ScpiLink(f"127.0.0.1:{server.port}")) as link:
        link.open()
        server.meter.asleep = True
        with pytest.raises(LinkTrouble) as silent:
            link.read()
        assert silent.value.wrong == "silent"
        server.meter.asleep = False
        server.pull()
        with pytest.raises(LinkTrouble):
            link.read()


def test_a_name_that_nobody_knows_is_said() -> None:
    link = ScpiLink("no-such-meter.invalid")
    with pytest.raises(LinkTrouble) as trouble:
        link.open()
    assert trouble.value.wrong == "not_there"


def test_nothing_at_an_address_is_said() -> None:
    with socket.socket() as held:
        held.bind(("127.0.0.1", 0))
        port = held.getsockname()[1]
    with closing(ScpiLink(f"127.0.0.1:{port}")) as link, pytest.raises(LinkTrouble) as trouble:
        link.open()
    assert trouble.value.wrong == "not_there"
    with closing(ScpiLink("/dev/no-such-port")) as link, pytest.raises(LinkTrouble):
        link.open()


SIMULATED = """
spec: "1.1"
devices:
  odd:
    eom:
      ASRL INSTR: {q: "\\n", r: "\\n"}
    error: ERROR
    dialogues:
      - {q: "*IDN?", r: "Odd,meter,1,1"}
      - {q: "CONF?", r: '"VOLT +1.0E+01,+1.0E-03"'}
      - {q: "READ?", r: "%s"}
resources:
  ASRL1::INSTR: {device: odd}
"""


@pytest.mark.parametrize("said", ["hello", "", "++1", "nan", "\u00fc\u00fc", "1 2 3 4 5" * 100])
def test_answers_that_no_meter_should_give_are_no_figure(tmp_path: Path, said: str) -> None:
    (tmp_path / "odd.yaml").write_text(SIMULATED % said)
    link = ScpiLink("ASRL1::INSTR", library=f"{tmp_path / 'odd.yaml'}@sim")
    with closing(link):
        link.open()
        sample = None
        with suppress(LinkTrouble):
            sample = link.read()
        assert sample is None or sample.value == 1.0


def test_over_the_range_is_no_figure(tmp_path: Path) -> None:
    (tmp_path / "odd.yaml").write_text(SIMULATED % "+9.9E37")
    with closing(ScpiLink("ASRL1::INSTR", library=f"{tmp_path / 'odd.yaml'}@sim")) as link:
        link.open()
        assert link.read().value is None


@pytest.mark.parametrize(
    ("address", "resource"),
    [
        ("10.0.0.5", "TCPIP0::10.0.0.5::5025::SOCKET"),
        ("meter.local:1234", "TCPIP0::meter.local::1234::SOCKET"),
        ("/dev/ttyUSB0", "ASRL/dev/ttyUSB0::INSTR"),
        ("COM3", "ASRLCOM3::INSTR"),
        ("TCPIP0::x::INSTR", "TCPIP0::x::INSTR"),
    ],
)
def test_addresses_as_people_give_them(address: str, resource: str) -> None:
    assert resource_of(address) == resource


@pytest.mark.parametrize("address", ["", "a b", "http://x/", "x:99999", "x:y"])
def test_what_is_no_address_is_said(address: str) -> None:
    with pytest.raises(LinkTrouble) as trouble:
        resource_of(address)
    assert trouble.value.wrong == "address"


@given(st.text(max_size=60))
def test_no_answer_breaks_the_reader(text: str) -> None:
    for how in (number_of, stands_on):
        with suppress(LinkTrouble):
            how(text)  # type: ignore[operator]


def test_the_stand_in_knows_its_points() -> None:
    meter = StandInMeter(sound_world(), "m1")
    assert len(meter.points()) == len(meter.world.craft.points)
    with pytest.raises(KeyError):
        meter.lay("no-such", "point")


@contextmanager
def sender(answer: Callable[[int], bytes], unasked: bytes = b"") -> Iterator[int]:
    """Something at a port of this machine that answers so to the n-th line, and sends this all the time."""
    listening = socket.create_server(("127.0.0.1", 0))
    over = Event()

    def serve() -> None:
        came, _ = listening.accept()
        with suppress(OSError), came:
            if unasked:
                Thread(target=flood, args=(came,), daemon=True).start()
            for n, _ in enumerate(came.makefile("rb")):
                came.sendall(answer(n))

    def flood(came: socket.socket) -> None:
        with suppress(OSError):
            while not over.is_set():
                came.sendall(unasked)

    Thread(target=serve, daemon=True).start()
    try:
        yield listening.getsockname()[1]
    finally:
        over.set()
        listening.close()


def test_answers_to_no_question_are_not_taken_for_answers() -> None:
    """Two lines for each question: the second never stands for the next answer."""
    says = [
        b"Maker,Model,0,1",
        b'"VOLT +6.0E+00,+1.0E-03"',
        *(f"+{n}.5".encode() for n in range(2, 9)),
    ]
    with (
        sender(lambda n: says[n] + b"\n+99.9\n") as port,
        closing(ScpiLink(f"127.0.0.1:{port}", clock=lambda: 0.0)) as link,
    ):
        assert link.open() == "Maker,Model,0,1"
        assert [link.read().value for _ in range(4)] == [2.5, 3.5, 4.5, 5.5]


@pytest.mark.parametrize("unasked", [b"+1.0\n" * 10_000, b"x" * 1_000_000, b"\xff\xfe\n"])
def test_a_flood_is_said_and_costs_no_memory(unasked: bytes) -> None:
    with (
        sender(lambda n: b"+1.0\n", unasked) as port,
        closing(ScpiLink(f"127.0.0.1:{port}")) as link,
    ):
        tracemalloc.start()
        for act in (link.open, link.read, link.read):
            with suppress(LinkTrouble):
                act()
        _, most = tracemalloc.get_traced_memory()
        tracemalloc.stop()
    assert most < 5_000_000
