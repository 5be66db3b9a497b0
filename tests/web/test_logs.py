"""Meters' logs over HTTP: looked at, brought in, figured, taken readings from; refused whole."""

import json
import uuid
from typing import Any

import numpy as np
import pytest
from flask.testing import FlaskClient

from tests.core.test_meter_logs import switched
from tests.web.test_api import MARRAM

LOGS = f"{MARRAM}/logs"
RING = ("tap-r", "bus")


def tap_log(rows: int = 6000) -> str:
    """The sloop's source and the drop over its ring, with the pump on from 10 to 40 s."""
    t, amps = switched(0.0, step=60 / rows)
    rng = np.random.default_rng(4)
    source = 12.62 - 0.012 * amps + rng.normal(0, 0.002, len(t))
    ring = (0.08 * amps + rng.normal(0, 0.0004, len(t))) * 1000
    lines = ["Time [s];Source [V];Ring [mV]"]
    lines += [
        f"{a:.3f};{b:.4f};{c:.2f}".replace(".", ",")
        for a, b, c in zip(t, source, ring, strict=True)
    ]
    return "\n".join(lines) + "\n"


def layout_of(client: FlaskClient, text: str) -> Any:
    answer = client.post(f"{LOGS}/layout", json={"head": text[:60_000]})
    assert answer.status_code == 200, answer.json
    return answer.json["layout"]


def brought(client: FlaskClient, text: str, **more: Any) -> Any:
    layout = {**layout_of(client, text), **more}
    query = {"id": uuid.uuid4().hex, "name": "tap", "layout": json.dumps(layout)}
    return client.post(LOGS, query_string=query, data=text.encode(), content_type="text/csv")


@pytest.fixture
def log(demo: FlaskClient) -> str:
    made = brought(demo, tap_log())
    assert made.status_code == 201, made.json
    return f"{LOGS}/{made.json['id']}"


def test_a_log_is_looked_at_first(demo: FlaskClient) -> None:
    seen = demo.post(f"{LOGS}/layout", json={"head": tap_log()[:5000]}).json
    layout = seen["layout"]
    assert (layout["delimiter"], layout["decimal"], layout["time_column"]) == (";", ",", 0)
    assert [(c["name"], c["unit"]) for c in layout["channels"]] == [("Source", "V"), ("Ring", "mV")]
    assert seen["rows"][0] == ["Time [s]", "Source [V]", "Ring [mV]"]
    assert demo.get(LOGS).json["logs"] == []
    # A corrected one shows what it would cut.
    other = {**layout, "delimiter": "|", "channels": [{"column": 0, "name": "all", "unit": ""}]}
    other |= {"time_column": None, "time_kind": "rows"}
    assert (
        demo.post(f"{LOGS}/layout", json={"head": tap_log()[:500], "layout": other}).json["columns"]
        == 1
    )


def test_windows_are_found_with_their_figures(demo: FlaskClient, log: str) -> None:
    shown = demo.get(log).json
    assert [w["name"] for w in shown["windows"]] == [
        "whole", "off 1", "start 1", "steady 1", "off 2", "start 2", "steady 2", "off 3",
    ]  # fmt: skip
    steady = next(w for w in shown["windows"] if w["name"] == "steady 1")
    assert steady["figures"][1]["mean"] == pytest.approx(0.4, abs=0.002)
    assert steady["figures"][0]["mean"] == pytest.approx(12.56, abs=0.01)
    start = next(w for w in shown["windows"] if w["name"] == "start 1")
    assert start["figures"][1]["most"] == pytest.approx(1.2, abs=0.05)
    assert len(shown["seconds"]) <= 1500
    assert max(v for v in shown["most"][1] if v is not None) == pytest.approx(1.2, abs=0.05)


def test_a_window_picked_by_hand_is_finer(demo: FlaskClient, log: str) -> None:
    fine = demo.get(f"{log}/window?start=9.9&end=11").json
    assert fine["window"]["figures"][1]["most"] == pytest.approx(1.2, abs=0.05)
    assert len(fine["seconds"]) > 50
    nothing = demo.get(f"{log}/window?start=1000&end=2000").json
    assert nothing["window"]["figures"] == [None, None]
    assert demo.get(f"{log}/window?start=5&end=5").status_code == 422


def say_where(client: FlaskClient, log: str) -> None:
    for channel, (red, black) in enumerate([("bat+", "bat-"), RING]):
        body = {"channel": channel, "red": red, "black": black}
        assert client.post(f"{log}/points", json=body).status_code == 200


def wanted(**more: Any) -> dict[str, Any]:
    return {"id": uuid.uuid4().hex, "stage": "as_found", "scenario": "evening", "channel": 1,
            "figure": "mean", "start_s": 12.0, "end_s": 39.0, **more}  # fmt: skip


def test_a_reading_keeps_its_window_and_the_source_of_the_same_instant(
    demo: FlaskClient, log: str
) -> None:
    assert "nobody said where" in demo.post(f"{log}/readings", json=wanted()).get_data(as_text=True)
    say_where(demo, log)
    said = wanted()
    for _ in range(2):
        assert demo.post(f"{log}/readings", json=said).status_code == 200
    file = json.loads(demo.get(f"{MARRAM}/file").data)
    kept = [r for r in file["readings"] if r["id"] == said["id"]]
    assert len(kept) == 1
    assert kept[0]["value"] == pytest.approx(0.4, abs=0.002)
    assert kept[0]["source_v"] == pytest.approx(12.56, abs=0.01)
    assert kept[0]["warm_min"] == pytest.approx(15.5 / 60, abs=0.02)
    assert kept[0]["window"] == {
        "log": log.rsplit("/", 1)[-1], "channel": 1, "figure": "mean", "start_s": 12.0, "end_s": 39.0,
    }  # fmt: skip
    shown = demo.get(f"{MARRAM}/sheet?run=tap").json["run"]["columns"]
    ring = next(c for c in shown if c["id"] == "tap-ring")["found"]
    assert ring["working"][-1]["formula"] == "mean of 12 to 39 s"
    assert ring["working"][-1]["source"].startswith("tap, 12.0 to 39.0 s")
    most = wanted(figure="most", start_s=9.5, end_s=10.6)
    assert demo.post(f"{log}/readings", json=most).status_code == 200
    taken = [r["says"] for r in demo.get(log).json["readings"]]
    assert (
        taken[0]
        == f"{demo.get(log).json['channels'][1]['name']} mean {kept[0]['typed']} (12.0 to 39.0 s)"
    )
    assert " most " in taken[1]
    held = json.loads(demo.get(f"{MARRAM}/file").data)["readings"][-1]
    assert (held["hold"], held["value"] > 1.0) == ("most", True)


def test_a_log_travels_with_its_job(demo: FlaskClient, log: str) -> None:
    say_where(demo, log)
    demo.post(f"{log}/readings", json=wanted())
    file = demo.get(f"{MARRAM}/file").get_data()
    made = demo.post("/api/v1/jobs", data=file).json["id"]
    out = json.loads(demo.get(f"/api/v1/jobs/{made}/file").data)
    first = json.loads(file)
    assert out["meter_logs"] == first["meter_logs"]
    assert out["readings"] == first["readings"]
    # Its samples stay at home; what is drawn of it gives figures near enough.
    there = demo.get(f"/api/v1/jobs/{made}/logs/{log.rsplit('/', 1)[-1]}").json
    steady = next(w for w in there["windows"] if w["name"] == "steady 1")
    assert steady["figures"][1]["mean"] == pytest.approx(0.4, abs=0.005)


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"time_column": 1}, "stands twice"),
        ({"time_column": None}, "is not said"),
        ({"time_kind": "date"}, "holds no times"),
        ({"delimiter": "|"}, "does not fit"),
        ({"channels": [{"column": 9, "name": "x", "unit": "V"}]}, "does not fit"),
        ({"channels": []}, "at least 1"),
        ({"time_kind": "fortnights"}, "fortnights is unknown"),
        ({"width": 3}, "is not a key that belongs here"),
    ],
)  # fmt: skip
def test_what_cannot_be_read_is_said_and_nothing_kept(
    demo: FlaskClient, change: dict[str, Any], says: str
) -> None:
    answer = brought(demo, tap_log(600), **change)
    assert answer.status_code == 422
    assert says in answer.get_data(as_text=True)
    assert demo.get(LOGS).json["logs"] == []


def test_a_layout_that_is_no_json_is_said(demo: FlaskClient) -> None:
    query = {"id": uuid.uuid4().hex, "name": "tap", "layout": "{comma"}
    answer = demo.post(LOGS, query_string=query, data=b"1;2", content_type="text/csv")
    assert answer.status_code == 422
    assert answer.json["errors"] == [
        {"field": "layout", "problem": "{comma is not JSON", "accepted": "JSON"}
    ]


def test_a_reading_that_cannot_be_taken_is_said(demo: FlaskClient, log: str) -> None:
    say_where(demo, log)
    for more, says in (
        ({"channel": 7}, "there is no channel 7"), ({"scenario": "never"}, "there is no never"),
        ({"start_s": 100.0, "end_s": 200.0}, "nothing in this window"),
    ):  # fmt: skip
        answer = demo.post(f"{log}/readings", json=wanted(**more))
        assert answer.status_code == 422
        assert says in answer.get_data(as_text=True)
    wrong = demo.post(f"{log}/points", json={"channel": 0, "red": "moon", "black": ""})
    assert "there is no test point moon" in wrong.get_data(as_text=True)
    assert demo.get(f"{LOGS}/nothing").status_code == 404


def test_a_file_of_a_log_that_does_not_add_up_is_refused(demo: FlaskClient, log: str) -> None:
    file = json.loads(demo.get(f"{MARRAM}/file").data)
    file["meter_logs"][0]["least"][0].pop()
    answer = demo.post("/api/v1/jobs", data=json.dumps(file))
    assert answer.status_code == 422
    assert "meter_logs[0].least" in answer.get_data(as_text=True)
