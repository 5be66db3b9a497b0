"""Recordings over the API: a trace, a start that is caught, a watch; what comes of them in the job."""

from collections.abc import Callable, Iterator
from typing import Any

import pytest
from flask.testing import FlaskClient

from spare_margin.exchange.job_file.job_file import read_job
from spare_margin.instruments.stand_in.meter import StandInMeter
from spare_margin.instruments.stand_in.scpi_server import ScpiServer
from spare_margin.instruments.stand_in.worlds import MOMENT, world_of
from tests.instruments.stand_ins import TABLES, served

JOB = "/api/v1/jobs/demo-1-sloop-marram"
RECORDINGS = f"{JOB}/recordings"
LONG_S = 60.0
MOST_FIGURES = 5000


class Bench:
    """The first demo job, and a stand-in on its craft that the application reads."""

    def __init__(self, client: FlaskClient, server: ScpiServer) -> None:
        self.client, self.meter = client, server.meter
        body = {"name": "Blue", "address": f"127.0.0.1:{server.port}"}
        self.id = client.post("/api/v1/meters", json=body).json["id"]
        self.room = client.application.extensions["meters"]
        self.run = self.meter.world.run

    def begin(self, kind: str, red: str, black: str, **more: Any) -> Any:
        body = {
            "id": f"recording-{kind}", "kind": kind, "stage": "as_found", "scenario": "evening",
            "meters": [{"meter": self.id, "red": red, "black": black}], **more,
        }  # fmt: skip
        return self.client.post(RECORDINGS, json=body)

    def get(self) -> Any:
        return self.client.get(RECORDINGS).json["recordings"][0]

    def until(self, met: Callable[[Any], bool]) -> Any:
        """Looks at the recording after each figure, until this is met; figures are counted, not time."""
        _, link = self.room._meters[self.id]
        past = -1
        for _ in range(MOST_FIGURES):
            if met(now := self.get()):
                return now
            past = link.wait(past, LONG_S).number
        raise AssertionError(now)

    def readings(self) -> list[Any]:
        made = self.client.get(f"{JOB}/file").json["readings"]
        return [r for r in made if r["id"].startswith("recording-")]


@pytest.fixture
def bench(demo: FlaskClient) -> Iterator[Bench]:
    craft = read_job(demo.get(f"{JOB}/file").data).revisions[0].craft
    meter = StandInMeter(world_of(craft, TABLES, "tap", "evening", {}), MOMENT)
    with served(meter) as server:
        yield Bench(demo, server)
        demo.application.extensions["recorder"].close()
        demo.application.extensions["meters"].close()


def test_a_trace_becomes_a_log_of_the_job(bench: Bench) -> None:
    source = bench.run.source
    bench.meter.lay(source.live, source.back)
    made = bench.begin("trace", source.live, source.back, back_s=5.0)
    assert made.status_code == 200, made.json
    assert bench.begin("trace", source.live, source.back).json["id"] == made.json["id"]
    bench.until(lambda now: now["saved"])
    stopped = bench.client.post(f"{RECORDINGS}/recording-trace/stop", json={}).json
    assert stopped["is_over"]
    assert stopped["says"].startswith("Recorded for")
    log = bench.client.get(f"{JOB}/logs/recording-trace").json
    assert (log["channels"][0]["red"], log["channels"][0]["quantity"]) == (source.live, "volts")
    body = {
        "id": "from-the-trace", "stage": "as_found", "scenario": "evening", "channel": 0,
        "figure": "mean", "start_s": 0.0, "end_s": log["duration_s"],
    }  # fmt: skip
    taken = bench.client.post(f"{JOB}/logs/recording-trace/readings", json=body)
    assert taken.status_code == 200, taken.json
    out = bench.client.get(f"{JOB}/logs/recording-trace/csv")
    assert out.mimetype == "text/csv"
    head, *rows = out.get_data(as_text=True).splitlines()
    assert head == "seconds,Blue (V)"
    assert len(rows) > 5
    assert all(len(row.split(",")) == 2 for row in rows)


def test_a_start_is_caught_and_kept_as_a_held_reading(bench: Bench) -> None:
    """The tap pump's own current in its return: nothing, then what it draws."""
    load, back = bench.run.load, bench.run.source.back
    bench.meter.lay(load.end, back)
    bench.meter.command(load.id, "off")
    made = bench.begin("start", load.end, back)
    assert made.status_code == 200, made.json
    bench.until(lambda now: "Armed" in now["says"])
    bench.meter.command(load.id, "running")
    told = bench.until(lambda now: now["says"].startswith("Caught") and now["saved"])
    assert told["is_over"]
    bench.until(lambda _: len(bench.readings()) == 1)
    (reading,) = bench.readings()
    assert reading["hold"] == "most"
    assert reading["window"]["log"] == "recording-start"
    assert (reading["red"], reading["black"]) == (load.end, back)
    true = bench.meter.world.solved(MOMENT, 0)
    assert true is not None
    assert reading["value"] == pytest.approx(true.solution.volts(load.end, back), abs=0.01)
    log = bench.client.get(f"{JOB}/logs/recording-start").json
    assert [s["kind"] for s in log["segments"]] == ["start"]


def test_a_watch_notes_changes_and_what_was_moved_is_evidence(bench: Bench) -> None:
    load, back = bench.run.load, bench.run.source.back
    bench.meter.lay(load.end, back)
    made = bench.begin("watch", load.end, back, least_change="100 mV")
    assert made.status_code == 200, made.json
    bench.until(lambda now: "nothing changed" in now["says"])
    _until_watched(bench, 3.0)
    assert bench.readings() == [], "quiet is no reading"
    for number in (1, 2):
        bench.meter.fault("tap-ring", 0.2)
        bench.until(lambda now: now["says"].startswith("Changing"))
        bench.meter.fault("tap-ring", 0)
        bench.until(lambda now, n=number: len(now["changes"]) == n)  # type: ignore[misc]
        _until_watched(bench, 3.0)
        if number == 1:
            assert bench.get()["changes"][0]["moved"] is None
            moving = {"piece": "tap-ring"}
            assert (
                bench.client.post(f"{RECORDINGS}/recording-watch/moving", json=moving).status_code
                == 200
            )
    told = bench.until(lambda now: now["changes"][1]["taken"])
    assert [c["moved"] for c in told["changes"]] == [None, "tap-ring"]
    held = bench.readings()
    assert [(r["hold"], r["moved"]) for r in held] == [("least", "tap-ring"), ("most", "tap-ring")]
    assert held[1]["value"] - held[0]["value"] > 0.5
    sheet = bench.client.get(f"{JOB}/sheet?run=tap").get_data(as_text=True)
    assert "while" in sheet.lower()
    # The first one after all: nothing was moved, it came by itself.
    moved = {"change": 0, "piece": ""}
    told = bench.client.post(f"{RECORDINGS}/recording-watch/moved", json=moved).json
    assert told["changes"][0]["taken"]
    again = bench.client.post(f"{RECORDINGS}/recording-watch/moved", json=moved)
    assert again.status_code == 422
    assert len(bench.readings()) == 4
    bench.client.post(f"{RECORDINGS}/recording-watch/stop", json={})
    log = bench.client.get(f"{JOB}/logs/recording-watch").json
    found = [(s["kind"], s["moved"]) for s in log["segments"]]
    assert found == [
        ("quiet", ""), ("change", ""), ("quiet", ""), ("change", "tap-ring"), ("quiet", ""),
    ]  # fmt: skip
    assert [w["name"] for w in log["windows"]][1] == "quiet 1"
    # It travels with its job.
    file = bench.client.get(f"{JOB}/file").json
    made = bench.client.post("/api/v1/jobs", json=file)
    assert made.status_code in (200, 201), made.json


def test_a_clamp_is_watched_in_amperes(bench: Bench) -> None:
    load = bench.run.load
    made = bench.begin("watch", load.start, load.end, least_change="0.5 A")
    assert made.status_code == 200, made.json
    bench.client.post(f"{RECORDINGS}/recording-watch/stop", json={})


def test_a_lead_that_comes_off_is_no_evidence(bench: Bench) -> None:
    load, back = bench.run.load, bench.run.source.back
    bench.meter.lay(load.end, back)
    bench.begin("watch", load.end, back)
    bench.until(lambda now: "nothing changed" in now["says"])
    _until_watched(bench, 3.0)
    bench.client.post(f"{RECORDINGS}/recording-watch/moving", json={"piece": "tap-ring"})
    bench.meter.lay("", "")
    bench.until(lambda now: now["says"].startswith("Changing"))
    _until_watched(bench, 1.0)
    bench.meter.lay(load.end, back)
    told = bench.until(lambda now: len(now["changes"]) == 1)
    assert "a lead may have come off" in told["changes"][0]["says"]
    assert not told["changes"][0]["can_say"]
    moved = {"change": 0, "piece": "tap-ring"}
    assert bench.client.post(f"{RECORDINGS}/recording-watch/moved", json=moved).status_code == 422
    bench.client.post(f"{RECORDINGS}/recording-watch/stop", json={})
    assert bench.readings() == []


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"meters": [{"meter": "none"}]}, "meters"), ({"scenario": "none"}, "scenario"),
        ({"least_change": "0"}, "least_change"), ({"least_change": "much"}, "least_change"),
        ({"meters": None}, "meters"),
    ],
)  # fmt: skip
def test_what_cannot_be_recorded_is_refused(bench: Bench, more: dict[str, Any], field: str) -> None:
    if more.get("meters", "") is None:
        more = {**more, "meters": [{"meter": bench.id}]}
    answer = bench.begin("watch", "tap-", "bat-", **more)
    assert answer.status_code == 422
    assert answer.json["errors"][0]["field"] == field
    assert bench.client.get(RECORDINGS).json["recordings"] == []
    assert bench.client.post(f"{RECORDINGS}/none-at-all/stop", json={}).status_code == 404


def _until_watched(bench: Bench, more_s: float) -> None:
    (held,) = bench.client.application.extensions["recorder"].of(JOB.rsplit("/", 1)[1])
    since = held.watched_s
    bench.until(lambda _: held.watched_s >= since + more_s)
