"""Whole walks over the API, a simulated meter doing the reading; notes, waiting readings, refusals."""

import http.client
import json
import os
import re
import sqlite3
import subprocess
import sys
import threading
import time
import urllib.request
import uuid
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient

from spare_margin.data.tables import shipped_tables
from tests.conftest import Document, craft_of
from tests.simulated_meter import SimulatedMeter
from tests.web.test_api import MARRAM, sheet, take
from tests.web.test_drawing import PUMP, asked, craft, drawn, fresh

TABLES = shipped_tables()


def walk(client: FlaskClient, job: str, **query: str) -> Document:
    answer = client.get(f"{job}/walk", query_string=query)
    assert answer.status_code == 200, answer.json
    return dict(answer.json)


def note(client: FlaskClient, job: str, run: str, step: str, state: str, reason: str = "") -> Any:
    body = {"id": uuid.uuid4().hex, "stage": "as_found", "run": run, "step": step, "state": state}
    return client.post(f"{job}/walk/notes", json={**body, "reason": reason})


class Walker:
    """Walks a run of a job that has a fault, typing what the simulated meter shows."""

    def __init__(self, client: FlaskClient, job: str, run: str, excess: dict[str, float]) -> None:
        self.client, self.job, self.run = client, job, run
        document = client.get(f"{job}/file").json
        document = {k: v for k, v in document.items() if k not in ("readings", "walk_notes")}
        made = craft_of(document)
        self.scenario = made.scenarios[0].id
        self.meter = SimulatedMeter(made, made.scenarios[0], TABLES, excess, 17)

    def now(self) -> Document:
        return walk(self.client, self.job, run=self.run, scenario=self.scenario)

    def type(self, card: Document, **more: Any) -> None:
        amps = card["kind"] == "current"
        typed = (
            self.meter.amperes(self.run)
            if amps
            else self.meter.volts(card["red"]["id"], card["black"]["id"])
        )
        answer = take(
            self.client, typed or "wandering", (card["red"]["id"], card["black"]["id"]), job=self.job,
            scenario=self.scenario, quantity="amperes" if amps else "volts", **more,
        )  # fmt: skip
        assert answer.status_code == 200, answer.json

    def go(self, most: int = 25) -> tuple[Document, list[str]]:
        """Walk to the end; the walk as it then is, and the steps in order."""
        steps = []
        for _ in range(most):
            stands = self.now()
            if stands["now"] is None:
                return stands, steps
            steps.append(stands["now"]["id"])
            self.type(stands["now"])
        raise AssertionError("the walk does not end")


@pytest.fixture
def pump(client: FlaskClient) -> tuple[FlaskClient, str]:
    job = fresh(client)
    drawn(client, job, PUMP)
    return client, job


def piece_named(client: FlaskClient, job: str, name: str, side: str) -> str:
    columns = sheet(client, job)["run"]["columns"]
    return str(next(c["id"] for c in columns if c["name"] == name and c["side"] == side))


@pytest.mark.parametrize(
    ("name", "side", "ohm"),
    [
        ("Pin", "feed", 0.09),
        ("Pin", "return", 0.2),
        ("Switch", "feed", 0.15),
        ("Fuse 15 A", "feed", 0.1),
    ],
)
def test_a_whole_walk_corners_the_culprit(
    pump: tuple[FlaskClient, str], name: str, side: str, ohm: float
) -> None:
    client, job = pump
    guilty = piece_named(client, job, name, side)
    ended, steps = Walker(client, job, "bilge-pump", {guilty: ohm}).go()
    assert steps[0] == "current"
    assert steps[1] in ("return", "feed")
    assert ended["ending"] == "cornered"
    assert ended["suspects"][0]["element"] == guilty
    assert ended["suspects"][0]["probability"] > 0.9
    assert len(steps) <= 10
    assert ended["suspects"][0]["found"]
    assert f"The {side} is over its limit" in ended["verdict_says"]
    assert sheet(client, job)["run"]["verdict"] == "over"


def test_a_good_loop_ends_after_three_readings(pump: tuple[FlaskClient, str]) -> None:
    client, job = pump
    ended, steps = Walker(client, job, "bilge-pump", {}).go()
    assert steps == ["current", "return", "feed"]
    assert ended["ending"] == "good"
    assert ended["ending_says"] == "Within limits. Nothing else needs testing."
    assert ended["after"] == {"act": "sheet", "says": "See the run sheet"}


def test_an_open_return_is_named_at_once(pump: tuple[FlaskClient, str]) -> None:
    client, job = pump
    guilty = piece_named(client, job, "Wire 2.5 mm\u00b2", "return")
    walker = Walker(client, job, "bilge-pump", {guilty: float("inf")})
    walker.type(walker.now()["now"])
    for pair in (("plug", "back"), ("p6", "back")):
        points = {p["id"] for p in walker.now()["points"]}
        if pair[0] in points:
            break
    load = sheet(client, job)["run"]["load"]
    for red in (load["feed"]["id"], load["back"]["id"]):
        typed = walker.meter.volts(red, "back")
        take(client, str(typed), (red, "back"), job=job, scenario=walker.scenario)
    take(client, "12.6", ("live", "back"), job=job, scenario=walker.scenario)
    found = walker.now()
    assert found["verdict"] == "open"
    assert "Open between" in found["verdict_says"] or "is open" in found["verdict_says"]


def test_every_card_says_where_how_and_what_to_expect(pump: tuple[FlaskClient, str]) -> None:
    client, job = pump
    walker = Walker(client, job, "bilge-pump", {})
    stands = walker.now()
    card = stands["now"]
    assert (card["kind"], card["range"]) == ("current", "clamp, zeroed; or in series")
    source = client.get(
        f"{job}/walk/card", query_string={"run": "bilge-pump", "red": "live", "black": "back"}
    ).json
    assert (source["kind"], source["red"]["name"], source["black"]["name"]) == (
        "source", "Battery + post", "Battery \u2212 post",
    )  # fmt: skip
    assert source["expect_says"].startswith("expect about 12.7")
    assert source["range"] == "60 V"
    walker.type(card)
    card = walker.now()["now"]
    assert card["title"] == "The whole return"
    assert card["range"].startswith("600 mV")
    assert card["allowed_v"] == pytest.approx(0.25)
    assert "0.250 V is allowed" in card["expect_says"]


def test_cautions_are_taken_note_of_and_kept_with_the_job(pump: tuple[FlaskClient, str]) -> None:
    client, job = pump
    guards = walk(client, job, run="bilge-pump")["guards"]
    assert [g["caution"]["when"] for g in guards] == [
        "At the battery",
        "Petrol, gasoline, LPG or propane aboard",
    ]
    assert not any(g["acknowledged"] for g in guards)
    for guard in guards:
        assert note(client, job, "bilge-pump", guard["id"], "acknowledged").status_code == 200
    assert all(g["acknowledged"] for g in walk(client, job, run="bilge-pump")["guards"])
    kept = client.get(f"{job}/file").json
    assert [n["state"] for n in kept["walk_notes"]] == ["acknowledged", "acknowledged"]
    again = client.post("/api/v1/jobs", json=kept)
    assert again.status_code == 201, again.json
    back = f"/api/v1/jobs/{again.json['id']}"
    assert all(g["acknowledged"] for g in walk(client, back, run="bilge-pump")["guards"])


def test_steps_are_skipped_with_a_reason_and_taken_up_again(pump: tuple[FlaskClient, str]) -> None:
    client, job = pump
    walker = Walker(client, job, "bilge-pump", {})
    assert walker.now()["now"]["id"] == "current"
    assert note(client, job, "bilge-pump", "current", "skipped").status_code == 422
    note(client, job, "bilge-pump", "current", "skipped", "no clamp")
    stands = walker.now()
    assert stands["now"]["id"] == "return"
    assert [(c["id"], c["skipped"]) for c in stands["skipped"]] == [("current", "no clamp")]
    note(client, job, "bilge-pump", "current", "back")
    assert walker.now()["now"]["id"] == "current"


def test_a_reading_that_waited_is_kept_once_at_its_own_time(pump: tuple[FlaskClient, str]) -> None:
    client, job = pump
    before = craft(client, job)["revision"]
    columns = sheet(client, job)["run"]["columns"]
    pin = next(c for c in columns if c["name"] == "Pin")
    body = {
        "id": uuid.uuid4().hex, "stage": "as_found", "scenario": "rested", "typed": "0.31",
        "red": pin["entry"]["id"], "black": pin["exit"]["id"], "revision": before, "waited_s": 3600.0,
        "who": "Ines", "warm": "5", "source": "12.4", "hold": "most",
    }  # fmt: skip
    # Meanwhile the piece was replaced on the bench.
    change = {
        "stage": "as_found",
        "revision": before,
        "element": pin["id"],
        "edit": {"style": "splice"},
    }
    client.post(f"{job}/changes", json=change)
    for _ in range(3):
        assert client.post(f"{job}/readings", json=body).status_code == 200
    kept = client.get(f"{job}/file").json["readings"]
    assert len(kept) == 1
    assert (kept[0]["revision"], kept[0]["who"], kept[0]["warm_min"]) == (before, "Ines", 5.0)
    assert (kept[0]["source_v"], kept[0]["hold"]) == (12.4, "most")
    taken = time.mktime(time.strptime(kept[0]["taken_at"][:19], "%Y-%m-%dT%H:%M:%S"))
    assert abs(time.mktime(time.gmtime()) - 3600 - taken) < 30


@pytest.mark.parametrize(
    ("more", "field"),
    [({"source": "abc"}, "source"), ({"source": "400"}, "source"), ({"warm": "-3"}, "warm"),
     ({"hold": "some"}, "hold"), ({"waited_s": -1}, "waited_s"),
     ({"quantity": "kelvin", "typed": "900"}, "typed")],
)  # fmt: skip
def test_bad_extras_are_named(pump: tuple[FlaskClient, str], more: Document, field: str) -> None:
    client, job = pump
    answer = take(
        client, more.pop("typed", "0.2"), ("live", "back"), job=job, scenario="rested", **more
    )
    assert (answer.status_code, answer.json["errors"][0]["field"]) == (422, field)


def test_a_source_that_moved_and_a_hot_joint_are_told(pump: tuple[FlaskClient, str]) -> None:
    client, job = pump
    take(client, "12.7", ("live", "back"), job=job, scenario="rested")
    load = sheet(client, job)["run"]["load"]
    take(
        client,
        "11.9",
        (load["feed"]["id"], load["back"]["id"]),
        job=job,
        scenario="rested",
        source="12.3",
    )
    pin = next(c for c in sheet(client, job)["run"]["columns"] if c["name"] == "Pin")
    ends = (pin["entry"]["id"], pin["exit"]["id"])
    answer = take(client, "31", ends, job=job, scenario="rested", quantity="kelvin")
    assert answer.json["understood"] == "31 K above the cable beside it"
    says = {f["code"]: f["says"] for f in walk(client, job)["findings"]}
    assert says["surface_hot"] == "Pin is 31 K warmer than the cable beside it."
    cautions = [c["when"] for c in sheet(client, job)["cautions"]]
    assert "Hot joint" in cautions


def test_a_parked_lead_is_made_up_for_the_sag(pump: tuple[FlaskClient, str]) -> None:
    client, job = pump
    load = sheet(client, job)["run"]["load"]
    take(client, "12.70", ("live", "back"), job=job, scenario="rested")
    # The source had sagged to 12.50 V when the feed terminal read 11.20 V against its return.
    take(client, "11.20", (load["feed"]["id"], "back"), job=job, scenario="rested", source="12.50")
    feed = sheet(client, job)["run"]["sides"][0]["found"]
    assert feed["volts"] == pytest.approx(12.50 - 11.20, abs=0.02)


@pytest.mark.parametrize(
    ("name", "word"),
    [("Airbag unit", "airbags"), ("Traction battery heater", "high-voltage"),
     ("Shore power relay", "mains"), ("230 V inverter", "mains")],
)  # fmt: skip
def test_what_is_out_of_bounds_is_refused(client: FlaskClient, name: str, word: str) -> None:
    job = fresh(client)
    drawn(client, job, f'fuse 5 > 1 mm2 2 m > load "{name}" 1 A > 1 mm2 2 m')
    stands = walk(client, job)
    assert stands["now"] is None
    assert word in stands["refused"].lower()
    load = sheet(client, job)["run"]["load"]
    answer = take(
        client, "12", (load["feed"]["id"], load["back"]["id"]), job=job, scenario="rested"
    )
    assert answer.status_code == 422
    assert "out of bounds" in answer.json["errors"][0]["problem"]


def stood_in(client: FlaskClient, job: str, run: str, **more: str) -> Any:
    body = {"id": uuid.uuid4().hex, "stage": "as_found", "run": run, "place": "connector",
            "scenario": walk(client, job, run=run)["scenario"], "amps": "4.6", "volts": "11.9"}  # fmt: skip
    return client.post(f"{job}/walk/stand-in", json={**body, **more})


def test_a_stand_in_load_condemns_a_side_and_counts_as_evidence(
    pump: tuple[FlaskClient, str],
) -> None:
    client, job = pump
    offered = client.get(f"{job}/walk/stand-in", query_string={"run": "bilge-pump"}).json
    assert "or more is enough to prove this run" in offered["says"]
    assert [b["enough"] for b in offered["bulbs"]] == sorted(b["enough"] for b in offered["bulbs"])
    # Hung on the battery the leads take 0.12 V; in the connector 0.58 V more are lost, most of it behind.
    hung = {"hung_source": "12.60", "hung_load": "12.48", "source": "12.60"}
    assert stood_in(client, job, "bilge-pump", volts="11.40", **hung).status_code == 200
    moved = stood_in(client, job, "bilge-pump", volts="12.36", place="return_moved", **hung)
    assert moved.status_code == 200
    stands = walk(client, job, run="bilge-pump")
    assert stands["verdict"] == "over"
    read = client.get(f"{job}/walk/stand-in", query_string={"run": "bilge-pump"}).json["read"]
    assert [r["says"].split(": ")[1] for r in read] == ["11.40 V", "12.36 V"]
    for field, text in (("amps", ""), ("amps", "0"), ("volts", "lots"), ("hung_load", "14")):
        wrong = stood_in(client, job, "bilge-pump", **{**hung, field: text})
        assert (wrong.status_code, wrong.json["errors"][0]["field"]) == (422, field)


def test_a_weak_stand_in_that_loses_nothing_clears_nothing(pump: tuple[FlaskClient, str]) -> None:
    client, job = pump
    kept = stood_in(client, job, "bilge-pump", amps="0.3", volts="12.58", source="12.6")
    assert kept.status_code == 200
    assert walk(client, job, run="bilge-pump")["verdict"] not in ("within", "over")


def test_a_weak_stand_in_that_loses_much_condemns(pump: tuple[FlaskClient, str]) -> None:
    client, job = pump
    stood_in(client, job, "bilge-pump", amps="0.3", volts="8.6", source="12.6")
    assert walk(client, job, run="bilge-pump")["verdict"] == "over"


def test_the_pulse_beats_when_something_changed(demo: FlaskClient) -> None:
    beat = demo.get(f"{MARRAM}/pulse").json["beat"]
    assert demo.get(f"{MARRAM}/pulse").json["beat"] == beat
    take(demo, "0.01", ("tap-r", "bus"))
    changed = demo.get(f"{MARRAM}/pulse").json["beat"]
    note(demo, MARRAM, "tap", "current", "skipped", "no clamp")
    assert len({beat, changed, demo.get(f"{MARRAM}/pulse").json["beat"]}) == 3


WRITERS, ROUNDS, EACH_ROUND = 4, 3, 8


def test_a_server_killed_while_many_write_loses_nothing_it_took(tmp_path: Path) -> None:
    """`kill -9` in a loop with writers under way: what was acknowledged is there, and the file is whole."""
    database = tmp_path / "jobs.sqlite3"
    program = [sys.executable, "-m", "spare_margin"]
    how = ["serve", "--no-browser", "--port", "0", "--database", str(database)]
    taken: list[str] = []
    job = ""
    for _ in range(ROUNDS):
        server = subprocess.Popen(
            [*program, *how],
            stdout=subprocess.PIPE, text=True, env={**os.environ, "PYTHONUNBUFFERED": "1"},
        )  # fmt: skip
        assert server.stdout is not None
        said = re.search(r"http://127.0.0.1:\d+", server.stdout.readline())
        assert said, "the server says where it is once it listens"
        site = f"{said.group()}/api/v1"
        if not job:
            job = _post(f"{site}/jobs/new", asked())["id"]
            shown = _get(f"{site}/jobs/{job}/craft")
            _post(
                f"{site}/jobs/{job}/lines",
                {"stage": "as_found", "revision": shown["revision"], "text": PUMP},
            )
        enough = threading.Semaphore(0)
        writers = [
            threading.Thread(target=_write, args=(f"{site}/jobs/{job}/readings", taken, enough))
            for _ in range(WRITERS)
        ]
        for writer in writers:
            writer.start()
        for _ in range(EACH_ROUND):
            enough.acquire()
        server.kill()
        server.wait()
        for writer in writers:
            writer.join()
    with sqlite3.connect(database) as connection:
        found = {row[0] for row in connection.execute("SELECT id FROM reading")}
        assert connection.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    assert len(taken) >= ROUNDS * EACH_ROUND
    assert set(taken) <= found


def _write(url: str, taken: list[str], enough: threading.Semaphore) -> None:
    """Readings one after another until the server is gone; the ids of those it acknowledged."""
    while True:
        key = uuid.uuid4().hex
        try:
            _post(url, {
                "id": key, "stage": "as_found", "scenario": "rested", "red": "live",
                "black": "back", "typed": "12.6", "view": None,
            })  # fmt: skip
        except (OSError, http.client.HTTPException):
            return
        taken.append(key)
        enough.release()


def _post(url: str, body: Document) -> Document:
    request = urllib.request.Request(
        url, json.dumps(body).encode(), {"Content-Type": "application/json"}
    )
    with urllib.request.urlopen(request) as answer:
        return dict(json.loads(answer.read()))


def _get(url: str) -> Document:
    with urllib.request.urlopen(url) as answer:
        return dict(json.loads(answer.read()))
