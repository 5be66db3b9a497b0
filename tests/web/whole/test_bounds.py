"""How large things may be: what is larger is refused in words, before it costs anything."""

import json
from itertools import pairwise
from typing import Any

import pytest
from flask.testing import FlaskClient

from spare_margin.core.circuit.extent import MOST_IN_A_RUN, MOST_LOADS, MOST_PIECES, too_large
from spare_margin.service.readings import taking
from tests.conftest import craft_of, job_document, load, piece

Document = dict[str, Any]


def chain(count: int) -> Document:
    """One load behind so many joints, and one behind it."""
    points = ["b+", *(f"p{i}" for i in range(count - 2)), "l+"]
    joints = [piece(f"j{i}", a, b) for i, (a, b) in enumerate(pairwise(points))]
    return job_document([*joints, load(), piece("r", "l-", "b-", "return")])


def many_loads(count: int) -> Document:
    return job_document([load(f"l{i}", "b+", "b-", current_a=0.01) for i in range(count)])


def test_a_run_a_craft_and_its_loads_have_bounds(client: FlaskClient) -> None:
    for document in (chain(MOST_IN_A_RUN), many_loads(MOST_LOADS)):
        assert too_large(craft_of(document)) is None
    for document, says in (
        (chain(MOST_IN_A_RUN + 1), f"the run of Load l has {MOST_IN_A_RUN + 1} pieces"),
        (many_loads(MOST_LOADS + 1), f"the craft has {MOST_LOADS + 1} loads"),
        (job_document([piece(f"j{i}", "b+", "b-") for i in range(MOST_PIECES + 1)]),
         f"the craft has {MOST_PIECES + 1} pieces"),
    ):  # fmt: skip
        answer = client.post("/api/v1/jobs", data=json.dumps(document))
        assert answer.status_code == 422
        assert answer.json is not None
        assert answer.json["errors"][0]["field"] == "elements"
        assert says in answer.json["detail"]
    assert client.get("/api/v1/jobs").json["total"] == 0  # type: ignore[index]


def test_nor_is_a_run_drawn_longer_than_it_may_be(client: FlaskClient) -> None:
    made = client.post("/api/v1/jobs", data=json.dumps(chain(MOST_IN_A_RUN))).json
    assert made is not None
    job = f"/api/v1/jobs/{made['id']}"
    sheet = client.get(f"{job}/sheet").json
    assert sheet is not None
    body = {
        "stage": "as_found", "revision": sheet["revision"], "run": "l", "action": "insert",
        "piece": "j3", "text": "pin",
    }  # fmt: skip
    answer = client.post(f"{job}/columns", json=body)
    assert answer.status_code == 422, answer.json
    assert answer.json is not None
    assert "pieces" in answer.json["detail"]


def test_a_job_holds_so_many_readings(demo: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    job = "/api/v1/jobs/demo-1-sloop-marram"
    file = demo.get(f"{job}/file").json
    assert file is not None
    monkeypatch.setattr(taking, "MOST_READINGS", len(file["readings"]))
    sheet = demo.get(f"{job}/sheet").json
    assert sheet is not None
    walk = demo.get(f"{job}/walk").json
    assert walk is not None
    reading = {
        "id": "c" * 32, "stage": "as_found", "scenario": walk["scenario"], "typed": "12.4",
        "red": walk["points"][0]["id"], "black": walk["points"][-1]["id"], "view": None,
    }  # fmt: skip
    answer = demo.post(f"{job}/readings", json=reading)
    assert answer.status_code == 422
    assert answer.json is not None
    assert answer.json["errors"][0]["field"] == "typed"
    monkeypatch.undo()
    kept = demo.post(f"{job}/readings", json=reading)
    assert kept.json is not None
    assert kept.json["sheet"] is None, "who shows no sheet waits for none"


def test_the_beat_of_a_job_that_is_not_there(demo: FlaskClient) -> None:
    assert demo.get("/api/v1/jobs/none/pulse").status_code == 404


def test_a_tables_cells_are_no_formulas_and_come_back(client: FlaskClient) -> None:
    line = "fuse 5 > 1.5 mm² 3 m > load F 2 A > 1.5 mm² 3 m"
    rows = f'name,line,source\n"\'=2+5",{line},"\'@home"\n'
    assert client.post("/api/v1/tables/typical_runs/csv", data=rows.encode()).status_code == 200
    out = client.get("/api/v1/tables/typical_runs/csv").text
    assert "\n'=2+5," in out
    runs = client.get("/api/v1/typical-runs").json
    assert runs is not None
    assert "=2+5" in [r["name"] for r in runs["runs"]]
    assert client.post("/api/v1/tables/typical_runs/csv", data=out.encode()).status_code == 200
    assert client.get("/api/v1/tables/typical_runs/csv").text == out


def test_what_takes_too_long_is_left_and_what_was_kept_stays(demo: FlaskClient) -> None:
    job = "/api/v1/jobs/demo-1-sloop-marram"
    demo.application.config["PATIENCE_S"] = -1.0
    for path in ("sheet", "walk", "craft"):
        answer = demo.get(f"{job}/{path}")
        assert answer.status_code == 503
        assert answer.json is not None
        assert answer.json["title"] == "Too much at once"
    reading = {
        "id": "5" * 32, "stage": "as_found", "scenario": "evening", "red": "tap-r", "black": "bus",
        "typed": "0.01", "view": None,
    }  # fmt: skip
    kept = demo.post(f"{job}/readings", json=reading)
    assert kept.status_code == 200, kept.json
    demo.application.config["PATIENCE_S"] = 30.0
    assert demo.get(f"{job}/sheet").status_code == 200
    assert "5" * 32 in demo.get(f"{job}/file").text
