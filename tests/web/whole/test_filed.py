"""Readings are filed under the wiring they were read on; what was kept is said to be kept."""

import threading
import uuid
from collections.abc import Callable
from typing import Any

import pytest
from flask.testing import FlaskClient

from spare_margin.core.patience import TooLong
from spare_margin.service.job import revising
from spare_margin.service.readings import taking
from spare_margin.web.sheet import routes
from tests.conftest import client_of

MARRAM = "/api/v1/jobs/demo-1-sloop-marram"
SPAN = ("tap-r", "bus")


def reading(**more: Any) -> dict[str, Any]:
    return {
        "id": uuid.uuid4().hex, "stage": "as_found", "scenario": "evening", "typed": "0.21",
        "red": SPAN[0], "black": SPAN[1], "view": None, **more,
    }  # fmt: skip


def test_a_wiring_that_is_not_known_here_is_asked_not_guessed(demo: FlaskClient) -> None:
    """As where an older copy of the jobs was put back under a phone that went on reading."""
    before = demo.get(f"{MARRAM}/file").data
    paths: list[tuple[str, dict[str, Any]]] = [
        ("readings", reading(revision="read-on-this")),
        ("walk/trials", {
            "id": uuid.uuid4().hex, "stage": "as_found", "scenario": "evening", "run": "tap",
            "kind": "bridge", "start": SPAN[0], "end": SPAN[1], "outcome": "right",
            "revision": "read-on-this",
        }),
    ]  # fmt: skip
    for path, body in paths:
        answer = demo.post(f"{MARRAM}/{path}", json=body)
        assert answer.status_code == 409, (path, answer.json)
        assert "not known here" in answer.json["detail"]
    assert demo.get(f"{MARRAM}/file").data == before
    known = demo.get(f"{MARRAM}/sheet").json["revision"]
    assert demo.post(f"{MARRAM}/readings", json=reading(revision=known)).status_code == 200
    # Whoever says so files it under the wiring as it is now.
    assert demo.post(f"{MARRAM}/readings", json=reading()).status_code == 200


def at_once(asks: list[Callable[[], Any]]) -> list[Any]:
    """All of these at the same moment; their answers."""
    ready, answers = threading.Barrier(len(asks)), [None] * len(asks)

    def run(place: int) -> None:
        ready.wait()
        answers[place] = asks[place]()

    threads = [threading.Thread(target=run, args=(i,)) for i in range(len(asks))]
    for each in threads:
        each.start()
    for each in threads:
        each.join()
    return answers


def test_six_phones_at_once_leave_the_wiring_once(demo: FlaskClient) -> None:
    clients = [client_of(demo.application) for _ in range(6)]

    def ask(client: FlaskClient, number: int) -> Callable[[], Any]:
        body = reading(stage="as_left", typed=f"0.0{number}1")
        return lambda: client.post(f"{MARRAM}/readings", json=body)

    answers = at_once([ask(client, n) for n, client in enumerate(clients)])
    assert [a.status_code for a in answers] == [200] * 6
    document = demo.get(f"{MARRAM}/file").json
    left = [r for r in document["revisions"] if r["stage"] == "as_left"]
    assert len(left) == 1
    of_left = [r for r in document["readings"] if r["revision"] == left[0]["id"]]
    assert len(of_left) == 6


def test_what_was_kept_is_said_though_its_page_takes_too_long(
    demo: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    def endless(*_: object) -> None:
        raise TooLong("it takes too long to work out")

    monkeypatch.setattr(routes, "_sheet", endless)
    body = reading(view={})
    for _ in range(2):
        answer = demo.post(f"{MARRAM}/readings", json=body)
        assert answer.status_code == 200, answer.json
        assert (answer.json["id"], answer.json["sheet"]) == (body["id"], None)


@pytest.mark.parametrize("run", ["no such run", "tap_pump", "", "lä rm", "x" * 80])
def test_a_note_of_a_run_that_is_not_there_is_refused(demo: FlaskClient, run: str) -> None:
    """It would come out with the job, and no file with it could come back."""
    note = {
        "id": uuid.uuid4().hex, "stage": "as_found", "run": run, "step": "feed",
        "state": "skipped", "reason": "cannot reach",
    }  # fmt: skip
    answer = demo.post(f"{MARRAM}/walk/notes", json=note)
    assert answer.status_code == 422
    assert answer.json["errors"][0]["field"] == "run"
    out = demo.get(f"{MARRAM}/file").data
    assert demo.post("/api/v1/jobs/preview", data=out).json["errors"] == []


@pytest.mark.parametrize(
    ("more", "replaces"),
    [
        ({}, True),
        ({"warm": "12"}, False),
        ({"states": {"tap": "starting"}}, False),
        ({"scenario": "charging"}, False),
    ],
)
def test_another_moment_stands_beside_and_never_in_place(
    demo: FlaskClient, more: dict[str, Any], replaces: bool
) -> None:
    """Cold 0.39 and warm 0.62 are what is looked for, not one reading and its correction."""
    cold = reading(typed="0.39")
    assert demo.post(f"{MARRAM}/readings", json=cold).status_code == 200
    later = reading(typed="0.62", supersedes=cold["id"], **more)
    for _ in range(2):  # sent twice, it is kept once
        answer = demo.post(f"{MARRAM}/readings", json=later)
        assert answer.status_code == 200, answer.json
    kept = {r["id"]: r for r in demo.get(f"{MARRAM}/file").json["readings"]}
    assert (kept[later["id"]].get("supersedes") == cold["id"]) is replaces
    assert kept[cold["id"]]["value"] == 0.39


@pytest.mark.parametrize(("waited_s", "held"), [(0.2, True), (7200.0, False)])
def test_a_clock_set_back_puts_no_reading_before_its_wiring(
    demo: FlaskClient, monkeypatch: pytest.MonkeyPatch, waited_s: float, held: bool
) -> None:
    """What was read just now was read after the wiring was drawn; what waited says for how long."""
    shown = demo.get(f"{MARRAM}/sheet").json
    wire = next(c["id"] for c in shown["run"]["columns"] if c["kind"] == "conductor")
    change = {"stage": shown["stage"], "revision": shown["revision"], "element": wire,
              "edit": {"length": "7 m"}, "correct": True, "view": {}}  # fmt: skip
    revision = demo.post(f"{MARRAM}/changes", json=change).json["revision"]
    plain = revising.earlier
    monkeypatch.setattr(taking, "earlier", lambda seconds: plain(seconds + 3600))
    body = reading(revision=revision, waited_s=waited_s)
    assert demo.post(f"{MARRAM}/readings", json=body).status_code == 200
    document = demo.get(f"{MARRAM}/file").json
    kept = next(r for r in document["readings"] if r["id"] == body["id"])
    own = {document["revision"]: document["revision_made"]["made_at"]}
    own |= {r["id"]: r["made_at"] for r in document["revisions"]}
    assert (kept["taken_at"] >= own[kept["revision"]]) is held


def test_a_point_that_only_todays_wiring_has_is_read_on_that(demo: FlaskClient) -> None:
    """A page may have heard of a new point before it has heard of the wiring that has it."""
    shown = demo.get(f"{MARRAM}/sheet").json
    point = {"stage": "as_found", "revision": shown["revision"], "name": "Engine block"}
    made = demo.post(f"{MARRAM}/walk/points", json=point).json["points"][0]
    body = reading(revision=shown["revision"], red=made)
    assert demo.post(f"{MARRAM}/readings", json=body).status_code == 200
    document = demo.get(f"{MARRAM}/file").json
    kept = next(r for r in document["readings"] if r["id"] == body["id"])
    assert kept["revision"] == document["revision"] != shown["revision"]
