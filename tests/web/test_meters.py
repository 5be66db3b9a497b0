"""Meters that speak, over the API: added, tried, pressed, kept with a reading."""

from collections.abc import Iterator
from typing import Any

import pytest
from flask.testing import FlaskClient

from spare_margin.data.tables import shipped_tables
from spare_margin.instruments.stand_in.scpi_server import MAKER, ScpiServer
from tests.instruments.stand_ins import served

JOB = "/api/v1/jobs/demo-1-sloop-marram"
LONG_S = 60.0


@pytest.fixture
def server() -> Iterator[ScpiServer]:
    with served() as made:
        yield made


@pytest.fixture
def client(client: FlaskClient) -> Iterator[FlaskClient]:
    yield client
    client.application.extensions["meters"].close()


def added(client: FlaskClient, server: ScpiServer, name: str = "Bench", **more: Any) -> Any:
    body = {"name": name, "address": f"127.0.0.1:{server.port}", **more}
    return client.post("/api/v1/meters", json=body)


def standing(client: FlaskClient, meter: str) -> None:
    """Waits until something stands still on it."""
    watched = client.application.extensions["meters"]
    _, link = watched._meters[meter]
    past = -1
    while True:
        shown = link.wait(past, LONG_S)
        assert shown.number > past
        past = shown.number
        if shown.standing is not None:
            return


def test_a_meter_is_tried_added_and_taken_out(client: FlaskClient, server: ScpiServer) -> None:
    tried = client.post("/api/v1/meters/test", json={"address": f"127.0.0.1:{server.port}"}).json
    assert tried["who"] == MAKER
    assert tried["shows"].endswith("V")
    assert client.get("/api/v1/meters").json["meters"] == []
    made = added(client, server)
    assert made.status_code == 201
    (meter,) = client.get("/api/v1/meters").json["meters"]
    assert (meter["name"], meter["speaks"]) == ("Bench", "scpi")
    assert added(client, server, "bench").json["errors"][0]["field"] == "name"
    assert client.post(f"/api/v1/meters/{made.json['id']}/remove").status_code == 204
    assert client.get("/api/v1/meters").json["shown"] == []
    assert client.post(f"/api/v1/meters/{made.json['id']}/remove").status_code == 404
    assert client.post(f"/api/v1/meters/{made.json['id']}/press").status_code == 404


@pytest.mark.parametrize(
    ("wrong", "field"),
    [
        ({"address": " "}, "address"), ({"address": "http://x/"}, "address"),
        ({"address": "127.0.0.1", "spec": "no such row"}, "spec"),
    ],
)  # fmt: skip
def test_what_is_no_meter_is_refused(
    client: FlaskClient, wrong: dict[str, str], field: str
) -> None:
    answer = client.post("/api/v1/meters/test", json={"name": "M", **wrong})
    assert answer.status_code == 422
    assert answer.json["errors"][0]["field"] == field


def test_a_pressed_figure_is_kept_with_how_it_was_taken(
    demo: FlaskClient, server: ScpiServer
) -> None:
    spec = demo.get("/api/v1/meters").json["specs"][-1]
    meter = added(demo, server, spec=spec).json["id"]
    source = server.meter.world.run.source
    server.meter.lay(source.live, source.back)
    standing(demo, meter)
    pressed = demo.post(f"/api/v1/meters/{meter}/press").json
    assert pressed["typed"].endswith(" V")
    figure = pressed["by_meter"]
    assert figure["name"] == "Bench"
    sheet = demo.get(f"{JOB}/sheet").json
    place = sheet["run"]["source"]
    body = {
        "id": "taken-by-the-meter", "stage": "as_found", "scenario": sheet["scenario"],
        "red": place["live"]["id"], "black": place["back"]["id"], "typed": pressed["typed"],
        "by_meter": figure, "view": None,
    }  # fmt: skip
    answer = demo.post(f"{JOB}/readings", json=body)
    assert answer.status_code == 200, answer.json
    again = demo.post(f"{JOB}/readings", json=body)
    assert again.status_code == 200, "sent twice it is kept once"
    held = next(
        r for r in demo.get(f"{JOB}/file").json["readings"] if r["id"] == "taken-by-the-meter"
    )
    assert held["by_meter"]["samples"] == figure["samples"]
    assert held["by_meter"]["shown"] == figure["shown"]
    assert held["meter"].startswith(spec)
    # In and out: the same again.
    taken = demo.post("/api/v1/jobs", json=demo.get(f"{JOB}/file").json)
    assert taken.status_code in (200, 201), taken.json
    demo.application.extensions["meters"].close()


def test_ac_is_said_and_nothing_is_pressed(client: FlaskClient, server: ScpiServer) -> None:
    server.meter.turn("volts_ac")
    meter = added(client, server).json["id"]
    _, link = client.application.extensions["meters"]._meters[meter]
    past = -1
    while (shown := link.wait(past, LONG_S)).state != "wrong_mode":
        assert shown.number > past
        past = shown.number
    (shown_out,) = client.get("/api/v1/meters").json["shown"]
    assert "AC" in shown_out["says"]


def test_a_meter_on_the_source_gives_the_source_of_the_same_instant(
    demo: FlaskClient, server: ScpiServer
) -> None:
    """Its doubt is that of its own specification: 0.05 % + 2 counts of 60,000 at 12 V, not the other's."""
    with served() as other:
        walks = added(demo, server, "Walks").json["id"]
        stays = added(demo, other, "Stays", spec="Bench multimeter").json["id"]
        assert demo.post(f"/api/v1/meters/{stays}/source", json={"on": True}).status_code == 204
        source = other.meter.world.run.source
        other.meter.lay(source.live, source.back)
        standing(demo, stays)
        run = server.meter.world.run
        server.meter.lay(run.feed_terminal, run.return_terminal)
        standing(demo, walks)
        pressed = demo.post(f"/api/v1/meters/{walks}/press").json
        beside = pressed["by_meter"]["source"]
        assert (beside["name"], beside["spec"]) == ("Stays", "Bench multimeter")
        assert float(beside["typed"].removesuffix(" V")) > float(
            pressed["typed"].removesuffix(" V")
        )
        sheet = demo.get(f"{JOB}/sheet").json
        place = sheet["run"]["source"]
        body = {
            "id": "of-two-meters", "stage": "as_found", "scenario": sheet["scenario"],
            "red": place["live"]["id"], "black": place["back"]["id"], "typed": pressed["typed"],
            "by_meter": pressed["by_meter"], "view": None,
        }  # fmt: skip
        assert demo.post(f"{JOB}/readings", json=body).status_code == 200
        held = next(r for r in demo.get(f"{JOB}/file").json["readings"] if r["id"] == body["id"])
        assert held["source_v"] == pytest.approx(float(beside["typed"].removesuffix(" V")))
        own = held["by_meter"]["source"]["accuracy"]
        bench = shipped_tables().meters["Bench multimeter"]
        step = float(f"1e-{len(beside['typed'].removesuffix(' V').partition('.')[2])}")
        spread = held["by_meter"]["source"]["spread"]
        assert own == pytest.approx(bench.accuracy(held["source_v"], step) + spread / 2)
        assert held["accuracy"] != pytest.approx(own)
        # Its leads came off: no source is told, rather than what they pick up.
        other.meter.lay("", "")
        _, link = demo.application.extensions["meters"]._meters[stays]
        link.wait(link.shown.number + 25, LONG_S)
        again = demo.post(f"/api/v1/meters/{walks}/press").json
        assert again["by_meter"] is not None
        assert again["by_meter"]["source"] is None
        # One at most stays there.
        assert demo.post(f"/api/v1/meters/{walks}/source", json={"on": True}).status_code == 204
        meters = demo.get("/api/v1/meters").json["meters"]
        assert [m["name"] for m in meters if m["on_source"]] == ["Walks"]
        assert demo.post("/api/v1/meters/none/source", json={"on": True}).status_code == 404
        demo.application.extensions["meters"].close()
