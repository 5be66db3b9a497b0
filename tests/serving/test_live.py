"""What meters show, as it comes, over a real door: many listen, none holds a worker."""

import http.client
import json
import socket
from collections.abc import Iterator
from contextlib import ExitStack, closing
from pathlib import Path
from typing import Any

import pytest
from flask import Flask

from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.serving.doors import WORKERS, Door
from spare_margin.store.file.database import connect
from spare_margin.store.meter_logs import logs, samples
from spare_margin.web.app import create_app
from tests.instruments.stand_ins import served
from tests.test_cli_keeping import address, serving

LONG_S = 60
STREAM = "/api/v1/meters/stream"


@pytest.fixture
def app(tmp_path: Path) -> Iterator[Flask]:
    made = create_app(tmp_path / "live.sqlite3")
    yield made
    made.extensions["meters"].close()


@pytest.fixture
def door(app: Flask) -> Iterator[Door]:
    listening = socket.create_server(("127.0.0.1", 0))
    made = Door(app, listening, room_of=lambda: app.extensions["meters"])
    made.open()
    yield made
    made.close()


def asked(door: Door, path: str, body: Any = None) -> tuple[int, Any]:
    with closing(http.client.HTTPConnection("127.0.0.1", door.port, timeout=LONG_S)) as way:
        headers = {"Content-Type": "application/json"} if body is not None else {}
        method = "GET" if body is None else "POST"
        way.request(method, path, None if body is None else json.dumps(body), headers)
        answer = way.getresponse()
        said = answer.read()
        return answer.status, json.loads(said) if said else None


class Listener:
    """Somebody who listens to the stream."""

    def __init__(self, door: Door) -> None:
        self._way = http.client.HTTPConnection("127.0.0.1", door.port, timeout=LONG_S)
        self._way.request("GET", STREAM)
        self.answer = self._way.getresponse()

    def next(self) -> dict[str, Any]:
        while True:
            line = self.answer.readline()
            assert line, "the stream ended"
            if line.startswith(b"data: "):
                return json.loads(line.removeprefix(b"data: "))  # type: ignore[no-any-return]

    def until(self, **wanted: Any) -> dict[str, Any]:
        while True:
            shown = self.next()
            if all(shown[key] == value for key, value in wanted.items()):
                return shown

    def drained(self) -> bool:
        """Reads on until the stream ends."""
        while self.answer.readline():
            pass
        return True

    def close(self) -> None:
        self._way.close()


def test_what_a_meter_shows_comes_to_everybody(door: Door) -> None:
    with served() as server, ExitStack() as ways:
        body = {"name": "Bench meter", "address": f"127.0.0.1:{server.port}"}
        status, added = asked(door, "/api/v1/meters", body)
        assert status == 201
        listeners = [ways.enter_context(closing(Listener(door))) for _ in range(WORKERS + 2)]
        assert listeners[0].answer.getheader("content-type") == "text/event-stream"
        source = server.meter.world.run.source
        listeners[0].until(hands="ready")
        server.meter.lay(source.live, source.back)
        for each in listeners:
            shown = each.until(hands="taken")
            assert shown["meter"] == added["id"]
            assert float(shown["stands_at"].removesuffix(" V")) == pytest.approx(12.5, abs=1.5)
        # More of them than workers, and others are answered all the same.
        assert asked(door, "/api/v1/settings")[0] == 200
        server.pull()
        gone = listeners[0].until(state="gone")
        assert gone["value"] is None
        assert gone["says"]
        server.meter.plugged = True
        listeners[0].until(state="live")


def test_what_is_offered_says_how_it_was_taken(door: Door) -> None:
    with served() as server, closing(Listener(door)) as listener:
        body = {"name": "M", "address": f"127.0.0.1:{server.port}"}
        assert asked(door, "/api/v1/meters", body)[0] == 201
        run = server.meter.world.run
        listener.until(hands="ready")
        server.meter.lay(run.feed_terminal, run.return_terminal)
        while (shown := listener.next())["offered"] is None:
            pass
        figure = shown["offered"]
        assert figure["name"] == "M"
        assert figure["samples"] >= 3
        assert 0.9 <= figure["seconds"] <= 1.6
        assert len(figure["shown"]) == len(figure["at_s"])
        stands = float(shown["stands_at"].removesuffix(" V"))
        assert min(figure["shown"]) <= stands <= max(figure["shown"])


def test_who_may_listen_no_more_hears_no_more(app: Flask, monkeypatch: pytest.MonkeyPatch) -> None:
    """As a device that was thrown out at the desk while its page was open."""
    monkeypatch.setattr("spare_margin.serving.live.AGAIN_S", 0.2)
    out: list[bool] = []
    app.before_request(lambda: ("", 401) if out else None)
    door = Door(
        app, socket.create_server(("127.0.0.1", 0)), room_of=lambda: app.extensions["meters"]
    )
    door.open()
    with served() as server, closing(Listener(door)) as listener:
        body = {"name": "M", "address": f"127.0.0.1:{server.port}"}
        assert asked(door, "/api/v1/meters", body)[0] == 201
        listener.next()
        out.append(True)
        assert listener.drained(), "the stream ends by itself"
    door.close()


def test_the_door_closes_while_somebody_listens(app: Flask) -> None:
    listening = socket.create_server(("127.0.0.1", 0))
    door = Door(app, listening, room_of=lambda: app.extensions["meters"])
    door.open()
    with closing(Listener(door)):
        door.close()


def test_an_address_where_no_meter_is_says_so(door: Door) -> None:
    with socket.socket() as held:
        held.bind(("127.0.0.1", 0))
        address = f"127.0.0.1:{held.getsockname()[1]}"
        status, said = asked(door, "/api/v1/meters/test", {"address": address})
    assert status == 422
    assert said["errors"][0]["field"] == "address"
    assert "No meter answers there" in said["errors"][0]["problem"]


def test_a_watch_outlives_a_kill(tmp_path: Path) -> None:
    """What was watched is in the job, whatever becomes of the program; at most the last seconds are not."""
    database = tmp_path / "jobs.sqlite3"
    fill_with_demo(database)
    job = "demo-1-sloop-marram"
    with served() as server, serving(database) as (program, said):
        port = int(address(said).rsplit(":", 1)[1].strip("/"))
        run = server.meter.world.run

        def ask(path: str, body: Any = None) -> Any:
            with closing(http.client.HTTPConnection("127.0.0.1", port, timeout=LONG_S)) as way:
                headers = {"Content-Type": "application/json"}
                method = "GET" if body is None else "POST"
                way.request(
                    method, f"/api/v1{path}", None if body is None else json.dumps(body), headers
                )
                answer = way.getresponse()
                told = answer.read()
                assert answer.status < 300, told
                return json.loads(told)

        server.meter.lay(run.source.live, run.source.back)
        meter = ask("/meters", {"name": "M", "address": f"127.0.0.1:{server.port}"})["id"]
        laid = {"meter": meter, "red": "bat+", "black": "bat-"}
        begun = {
            "id": "watch-killed", "kind": "watch", "stage": "as_found", "scenario": "evening",
            "meters": [laid],
        }  # fmt: skip
        ask(f"/jobs/{job}/recordings", begun)
        while "for 4 s" not in ask(f"/jobs/{job}/recordings")["recordings"][0]["says"]:
            pass
        program.kill()
        program.wait()
    with closing(connect(database)) as connection:
        (log,) = [x for x in logs(connection, job) if x.id == "watch-killed"]
        held = samples(connection, job, log)
    assert held is not None
    assert log.duration_s >= 2.0
    assert len(held.seconds) == log.row_count > 10
