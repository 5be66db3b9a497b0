"""Whatever is drawn or read, every page of a job answers: none falls over."""

import json
from typing import Any

import pytest
from flask.testing import FlaskClient

from spare_margin.core.errors import NoSolution
from spare_margin.core.upgrade import candidates
from tests.conftest import Document

NEW = {
    "title": "Van Whimbrel", "craft": "vehicle", "nominal_v": 12, "polarity": "negative",
    "battery": "agm", "capacity": "90", "clamps": True,
}  # fmt: skip
PAGES = (
    "sheet", "craft", "worst", "limits", "protection", "protection?stage=as_found", "walk",
    "walk/at-rest", "walk/stand-in", "upgrade", "run-by-run", "order", "order.csv", "proof",
    "hand-over.pdf", "sizing", "source-check", "timeline", "file", "readings.csv", "logs",
)  # fmt: skip


def made(client: FlaskClient, line: str = "") -> str:
    job = f"/api/v1/jobs/{client.post('/api/v1/jobs/new', json=NEW).json['id']}"
    if line:
        drawn(client, job, line)
    return job


def drawn(client: FlaskClient, job: str, line: str) -> None:
    shown = client.get(f"{job}/craft").json
    said = {"stage": shown["stage"], "revision": shown["revision"], "text": line}
    assert client.post(f"{job}/lines", json=said).status_code == 200


def changed(client: FlaskClient, job: str, element: str, edit: Document) -> None:
    shown = client.get(f"{job}/craft").json
    said: dict[str, Any] = {
        "stage": shown["stage"], "revision": shown["revision"], "element": element, "edit": edit,
        "correct": True, "view": {},
    }  # fmt: skip
    answer = client.post(f"{job}/changes", json=said)
    assert answer.status_code in (200, 422), answer.json


def read(
    client: FlaskClient, job: str, key: str, red: str, black: str, typed: str, **more: Any
) -> None:
    said = {
        "id": f"reading-{key}", "stage": "as_found", "scenario": "rested", "quantity": "volts",
        "red": red, "black": black, "typed": typed, "view": None, **more,
    }  # fmt: skip
    answer = client.post(f"{job}/readings", json=said)
    assert answer.status_code == 200, answer.json


def every_page(client: FlaskClient, job: str, run: str = "", steps: int = 3) -> None:
    """`steps` is how often a page that works something out is asked to go on."""
    for page in PAGES:
        each = f"{page}{'&' if '?' in page else '?'}run={run}" if run else page
        for _ in range(steps):
            answer = client.get(f"{job}/{each}")
            assert answer.status_code < 500, (each, answer.text[:300])
            going_on = page in ("upgrade", "run-by-run") and answer.status_code == 200
            if not going_on or answer.json["done"]:
                break
    listed = client.get("/api/v1/jobs").json
    assert listed["total"]


def test_a_craft_without_a_run(client: FlaskClient) -> None:
    every_page(client, made(client))


def test_a_new_vehicle_with_one_run(client: FlaskClient) -> None:
    every_page(client, made(client, 'fuse 10 > 1.5 mm² 3 m > load "Fan" 5 A > body'))


def test_a_load_that_would_stall_whatever_is_done(
    client: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    """As where a lug that all runs share has so many ohms that a converter cannot run behind it."""

    def stalls(*_: object, **__: object) -> None:
        raise NoSolution("cold-box", "Cold box", 0.321, 0.294)

    job = made(client, 'fuse 15 > 2.5 mm² 3 m > converter "Cold box" 110 W > body')
    monkeypatch.setattr(candidates, "size_conductors", stalls)
    every_page(client, job)
    shown = client.get(f"{job}/upgrade").json
    assert shown["candidates"], "each is shown, at its thickest"


def test_a_tripped_breaker_read_at_zero_then_a_start_with_next_to_nothing_across(
    client: FlaskClient,
) -> None:
    """A span of 0 V has 0 ohm: its heat is no number to divide by."""
    job = made(client, 'breaker 200 > 50 mm² 2 m > motor "Winch" 255 A x1.5 > 50 mm² 2 m')
    craft = client.get(f"{job}/sheet").json
    columns = craft["run"]["columns"]
    breaker = next(c for c in columns if c["kind"] == "breaker")
    load = craft["run"]["load"]["id"]
    scenario = craft["scenario"]
    ends = breaker["entry"]["id"], breaker["exit"]["id"]
    for n, (red, black, typed, more) in enumerate([
        ("live", "back", "12.6", {}),
        (*ends, "0", {}),
        (*ends, "0", {"states": {load: "starting"}}),
        (*ends, "0.09", {"states": {load: "starting"}}),
        (craft["run"]["load"]["feed"]["id"], craft["run"]["load"]["back"]["id"], "255",
         {"quantity": "amperes", "states": {load: "starting"}}),
        (*ends, "0", {"states": {load: "starting"}}),
    ]):  # fmt: skip
        read(client, job, str(n), red, black, typed, scenario=scenario, **more)
        for page in ("sheet", "walk", "proof"):
            assert client.get(f"{job}/{page}").status_code == 200, (n, page)
    every_page(client, job, steps=1)


def test_what_is_nested_without_end_is_refused(demo: FlaskClient) -> None:
    document = json.loads(demo.get("/api/v1/openapi.json").data)
    deep = "[" * 20_000 + "]" * 20_000
    for path, ways in document["paths"].items():
        if "post" in ways:
            address = path.replace("{job}", "demo-1-sloop-marram").replace("{", "").replace("}", "")
            answer = demo.post(address, data=deep, content_type="application/json")
            assert answer.status_code < 500, (address, answer.text[:200])
