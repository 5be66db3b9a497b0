"""The stand-in as it is served: on a socket and a terminal, with its page, on a craft with a fault."""

import re
import signal
import socket
import subprocess
import sys
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Iterator
from contextlib import closing, contextmanager

import pytest

from spare_margin.cli.stand_in import demo_meter
from spare_margin.core.errors import JobError
from spare_margin.exchange.job_file.job_file import read_job
from spare_margin.instruments.stand_in.meter import StandInMeter
from spare_margin.instruments.stand_in.scpi_server import MAKER
from spare_margin.instruments.stand_in.served import StandIn
from spare_margin.instruments.stand_in.worlds import MOMENT, world_of
from tests.conftest import EXAMPLES
from tests.instruments.stand_ins import TABLES

BOAT = EXAMPLES / "boat-galley-and-capstan.json"


@pytest.fixture
def stand_in() -> Iterator[StandIn]:
    with closing(StandIn(demo_meter(), 0, 0)) as made:
        yield made


def pressed(made: StandIn, origin: str = "", **form: str) -> int:
    """Presses something on its page; what was answered."""
    url = f"http://127.0.0.1:{made.page.port}/"
    asked = urllib.request.Request(url, urllib.parse.urlencode(form).encode())
    if origin:
        asked.add_header("Origin", origin)
    try:
        with urllib.request.urlopen(asked) as answer:
            return int(answer.status)
    except urllib.error.HTTPError as refused:
        return refused.code


def test_its_page_lays_leads_and_makes_trouble(stand_in: StandIn) -> None:
    meter = stand_in.server.meter
    source = meter.world.run.source
    assert pressed(stand_in, red=source.live) == 200
    assert pressed(stand_in, black=source.back) == 200
    assert (meter.red, meter.black) == (source.live, source.back)
    assert pressed(stand_in, red="no such point") == 200
    assert meter.red == source.live
    for name, switch in (("AC volts", "volts_ac"), ("Amperes, clamp", "amperes")):
        pressed(stand_in, switch=name)
        assert meter.switch == switch
    assert meter.clamp == ""
    pressed(stand_in, clamp="yes")
    assert meter.clamp == meter.world.run.load.id
    pressed(stand_in, asleep="yes")
    assert meter.asleep
    pressed(stand_in, asleep="no", plugged="no")
    assert (meter.asleep, meter.plugged) == (False, False)
    pressed(stand_in, plugged="yes", lift="yes")
    assert (meter.plugged, meter.red, meter.black) == (True, "", "")


def test_another_pages_press_lays_nothing(stand_in: StandIn) -> None:
    meter = stand_in.server.meter
    assert pressed(stand_in, "http://elsewhere.example", red=meter.world.run.source.live) == 403
    assert meter.red == ""


def test_a_port_that_is_taken_gives_way_to_a_free_one() -> None:
    with closing(socket.create_server(("127.0.0.1", 0))) as held:
        port = held.getsockname()[1]
        with closing(StandIn(demo_meter(), port, port)) as made:
            assert port not in (made.server.port, made.page.port)


def test_its_fault_is_there_and_only_there() -> None:
    craft = read_job(BOAT.read_bytes()).revisions[0].craft
    load = craft.loads[0].id
    state = next(s.id for s in craft.scenarios if load in s.on)

    def left(faults: dict[str, float]) -> float:
        world = world_of(craft, TABLES, load, state, faults)
        meter = StandInMeter(world, MOMENT, clock=iter(range(1000)).__next__)
        meter.lay(world.run.feed_terminal, world.run.return_terminal)
        value, _, _ = meter.shown()
        assert value is not None
        return value

    assert left({"pump-wire": 0.2}) < left({}) - 0.3
    for run, scenario, faults in (
        ("none", state, {}), (load, "none", {}), (load, state, {"none": 1.0}),
        (load, state, {"pump-wire": -1.0}),
    ):  # fmt: skip
        with pytest.raises(JobError):
            world_of(craft, TABLES, run, scenario, faults)


@contextmanager
def told(*words: str) -> Iterator["subprocess.Popen[str]"]:
    command = [sys.executable, "-m", "spare_margin", "stand-in", *words]
    command += ["--port", "0", "--page-port", "0"]
    with subprocess.Popen(
        command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
    ) as run:
        try:
            yield run
        finally:
            run.send_signal(signal.SIGTERM)
            run.wait()


def test_the_command_serves_a_file_until_it_is_told_to_stop() -> None:
    with told(str(BOAT), "--fault", "pump-wire=0.2") as run:
        assert run.stdout is not None
        found = re.search(r"127\.0\.0\.1:(\d+)", run.stdout.readline())
        assert found is not None
        with (
            socket.create_connection(("127.0.0.1", int(found[1]))) as way,
            way.makefile("rw") as said,
        ):
            for question in ("*IDN?", "TEST:POINTS?"):
                said.write(question + "\n")
                said.flush()
                answer = said.readline()
                assert MAKER in answer or "pump" in answer
        assert "its leads" in run.stdout.readline().lower()
    assert run.returncode == 0


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (("--fault", "pump-wire=much"), "PIECE=OHM"),
        (("--fault", "none=1"), "there is no piece none"),
        (("--run", "none"), "there is no run none"),
    ],
)
def test_what_cannot_be_read_ends_it_with_a_line(words: tuple[str, ...], says: str) -> None:
    with told(str(BOAT), *words) as run:
        assert run.stderr is not None
        assert says in run.stderr.read()
    assert run.returncode == 2
