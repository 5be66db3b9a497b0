"""Drawing up through the API: a job from nothing, lines, columns, scenarios, on every stage."""

import uuid
from typing import Any

import pytest
from flask.testing import FlaskClient

from tests.conftest import Document
from tests.web.test_api import MARRAM, sheet, take

PUMP = (
    "16 mm2 3.4 m [Panel] > fuse 15 > panel switch > 2.5 mm2 4.8 m > pin [Plug] > "
    'motor "Bilge pump" 4.6 A x4 least 10.5 V critical > pin > 2.5 mm2 4.8 m [Bus] > 16 mm2 3.6 m'
)
FAN = '[Panel] > fuse 5 > 1.5 mm2 3 m > motor "Cabin fan" 0.8 A > 1.5 mm2 3 m > [Bus]'


def asked(**more: Any) -> Document:
    return {
        "title": "Yawl Teasel", "craft": "boat", "nominal_v": 12, "polarity": "negative",
        "battery": "agm", "capacity": "110 Ah", "complaint": "Pump slow", "when": "at night",
        "conditions": "cold", **more,
    }  # fmt: skip


def fresh(client: FlaskClient, **more: Any) -> str:
    made = client.post("/api/v1/jobs/new", json=asked(**more))
    assert made.status_code == 201, made.json
    return f"/api/v1/jobs/{made.json['id']}"


def craft(client: FlaskClient, job: str, **query: str) -> Document:
    answer = client.get(f"{job}/craft", query_string=query)
    assert answer.status_code == 200, answer.json
    return dict(answer.json)


def act(client: FlaskClient, job: str, what: str, stage: str = "", **body: Any) -> Any:
    seen = craft(client, job, **({"stage": stage} if stage else {}))
    where = {"stage": seen["stage"], "revision": seen["revision"]}
    return client.post(f"{job}/{what}", json={**where, **body})


def drawn(client: FlaskClient, job: str, text: str, **more: Any) -> Document:
    answer = act(client, job, "lines", text=text, **more)
    assert answer.status_code == 200, answer.json
    return dict(answer.json)


def test_a_craft_from_nothing(client: FlaskClient) -> None:
    job = fresh(client)
    empty = craft(client, job)
    assert (empty["runs"], empty["complaint_conditions"]) == ([], "cold")
    assert [s["name"] for s in empty["scenarios"]] == [
        "Rested", "Charging", "Tired", "Engine start in progress",
    ]  # fmt: skip
    assert empty["sources"][0]["internal"] == "3.18 m\u03a9"
    assert client.get("/api/v1/jobs").json["jobs"][0]["run_count"] == 0
    refused = client.get(f"{job}/sheet")
    assert (refused.status_code, refused.json["errors"][0]["field"]) == (422, "run")

    made = drawn(client, job, PUMP)
    assert (made["made"], made["stage"]) == ("bilge-pump", "as_found")
    drawn(client, job, FAN)
    seen = craft(client, job)
    assert {r["name"] for r in seen["runs"]} == {"Bilge pump", "Cabin fan"}
    pump = next(r for r in seen["runs"] if r["id"] == "bilge-pump")
    assert pump["pieces"] == 10, "both clamps, and all that was typed"
    assert pump["worst_name"] == "Rested", "it constant current: the first of equals"
    assert all(r["critical"] == (r["id"] == "bilge-pump") for r in seen["runs"])
    trunk = [s for s in seen["stretches"] if len(s["loads"]) == 2]
    assert {(s["side"], s["name"]) for s in trunk} == {
        ("feed", "Clamp +, Wire 16 mm\u00b2"), ("return", "Clamp \u2212, Wire 16 mm\u00b2"),
    }  # fmt: skip
    assert trunk[0]["current_a"] == pytest.approx(5.4)
    assert seen["notices"] == []


def test_a_run_line_is_read_as_it_is_typed(client: FlaskClient) -> None:
    job = fresh(client)
    drawn(client, job, PUMP)

    def read(text: str, caret: int | None = None) -> Document:
        at = len(text) if caret is None else caret
        return dict(client.post(f"{job}/line/read", json={"text": text, "caret": at}).json)

    seen = read("fuse 15 > 2.5 mm2 4 m [pl")
    assert [c["text"] for c in seen["completions"]] == ["[Plug]"]
    assert (seen["start"], seen["end"]) == (22, 25)
    assert "[Panel]" in [c["text"] for c in read("")["completions"]]
    assert [c["text"] for c in read("sw")["completions"]] == []
    assert [c["text"] for c in read("iso")["completions"]] == ["isolator"]
    assert any(c["text"].startswith('motor "Bilge') for c in read("bilge")["completions"])
    wrong = read("fuse 15 > 3.1 mm2 4 m > pin")
    assert [(e["start"], e["end"]) for e in wrong["errors"]] == [(10, 17)]
    assert "2.5" in wrong["errors"][0]["accepted"]
    assert [u["says"] for u in wrong["understood"]] == ["Fuse 15 A", "Pin"]


@pytest.mark.parametrize(
    ("text", "field", "problem"),
    [
        ("fuse 15 > what", "text", "is not understood"),
        ("", "text", "no piece"),
        (
            "[Nowhere] > 2.5 mm2 3 m > load Fan 2 A > 2.5 mm2 3 m",
            "line",
            "nothing feeds Nowhere yet",
        ),
        ("2.5 mm2 -3 m > load Fan 2 A > 2.5 mm2 3 m", "text", "no length"),
        ("2.5 mm2 3 m > load Fan 0 A > 2.5 mm2 3 m", "text", "no load"),
    ],
)
def test_a_line_that_cannot_be_drawn_changes_nothing(
    client: FlaskClient, text: str, field: str, problem: str
) -> None:
    job = fresh(client)
    answer = act(client, job, "lines", text=text)
    assert answer.status_code == 422
    assert answer.json["errors"][0]["field"] == field
    assert problem in answer.json["errors"][0]["problem"]
    assert craft(client, job)["runs"] == []


def test_columns_are_put_in_moved_and_taken_out(client: FlaskClient) -> None:
    job = fresh(client)
    drawn(client, job, PUMP)

    def order() -> list[str]:
        return [c["name"] for c in sheet(client, job)["run"]["columns"]]

    before = order()
    fuse = sheet(client, job)["run"]["columns"][2]["id"]
    put = act(
        client, job, "columns", run="bilge-pump", action="insert", piece=fuse, text="isolator"
    )
    assert order()[3] == "Switch"
    new = put.json["made"]
    act(client, job, "columns", run="bilge-pump", action="later", piece=new)
    assert sheet(client, job)["run"]["columns"][4]["id"] == new
    act(client, job, "columns", run="bilge-pump", action="remove", piece=new)
    assert order() == before
    for _ in range(3):
        client.post(f"{job}/steps", json={"stage": "as_found", "direction": "undo"})
    assert order() == before
    bad = act(
        client, job, "columns", run="bilge-pump", action="insert", piece=fuse, text="load A 2 A"
    )
    assert bad.json["errors"][0]["problem"] == "is a load"
    assert act(client, job, "columns", run="x", action="later", piece=fuse).status_code == 422


def test_a_redrawn_run_keeps_what_stayed(client: FlaskClient) -> None:
    job = fresh(client)
    drawn(client, job, PUMP)
    before = sheet(client, job)["run"]
    text = before["text"].replace("fuse 15 A", "fuse 20 A").replace("4.8 m", "5.2 m", 1)
    drawn(client, job, text, run="bilge-pump")
    after = sheet(client, job)["run"]
    assert [c["id"] for c in after["columns"]] == [c["id"] for c in before["columns"]]
    assert after["columns"][2]["spec"] == "blade 20\u00a0A"
    assert after["text"] == text


def test_runs_are_copied_and_taken_out(client: FlaskClient) -> None:
    job = fresh(client)
    drawn(client, job, PUMP)
    copied = act(client, job, "runs", run="bilge-pump", action="copy")
    assert copied.json["made"] == "bilge-pump-2"
    assert act(client, job, "runs", run="bilge-pump-2", action="remove").json["said"] == (
        "Bilge pump 2 deleted."
    )
    assert [r["id"] for r in craft(client, job)["runs"]] == ["bilge-pump"]
    assert act(client, job, "runs", run="gone", action="copy").status_code == 422


def test_once_measured_a_new_run_is_drawn_on_every_stage(demo: FlaskClient) -> None:
    shown = sheet(demo)
    ring = next(c for c in shown["run"]["columns"] if c["id"] == "tap-ring")
    body = {"stage": "as_found", "revision": shown["revision"], "element": "tap-ring"}
    demo.post(f"{MARRAM}/changes", json={**body, "edit": {"repair": "remade"}})
    assert "planned" in [s["stage"] for s in sheet(demo)["stages"]]
    live = ring["entry"]["name"]
    assert live
    made = act(
        demo, MARRAM, "lines", "as_found", text='fuse 5 > 1 mm2 2 m > load "Dial" 0.2 A > 1 mm2 2 m'
    )
    assert made.json["stage"] == "as_found"
    assert made.json["stages"] == ["as_found", "planned"], "undoing it undoes both"
    for stage in ("as_found", "planned"):
        assert "Dial" in [r["name"] for r in craft(demo, MARRAM, stage=stage)["runs"]]
    # A changed column is a repair all the same, and lands on the plan alone.
    moved = act(demo, MARRAM, "columns", "as_found", run="tap", action="remove", piece="tap-ring")
    assert moved.status_code in (200, 409, 422)


def test_how_a_run_is_judged_is_no_repair(demo: FlaskClient) -> None:
    shown = sheet(demo)
    body = {"stage": "as_found", "revision": shown["revision"], "element": "tap-ring"}
    answer = demo.post(f"{MARRAM}/changes", json={**body, "edit": {"pinned": "40 mV"}}).json
    assert answer["stage"] == "as_found"
    ring = next(c for c in answer["run"]["columns"] if c["id"] == "tap-ring")
    assert ring["allowance_v"] == pytest.approx(0.04)
    assert ring["form"]["pinned"] == "0.04 V"
    assert "set by hand" in ring["allowance_why"]


def test_details_and_a_craft_of_another_voltage(client: FlaskClient) -> None:
    job = fresh(client)
    drawn(client, job, PUMP)
    for body, stages in (
        ({"title": "  Yawl  Teasel, refit "}, []), ({"limit_set": "percent"}, []),
        ({"conditions": ""}, []), ({"nominal_v": 24, "polarity": "none"}, ["as_found"]),
        ({"nominal_v": 24}, []),
    ):  # fmt: skip
        assert client.post(f"{job}/details", json=body).json == {"stages": stages}
    seen = craft(client, job)
    assert (seen["title"], seen["limit_set"]["id"]) == ("Yawl Teasel, refit", "percent")
    assert (seen["nominal_v"], seen["scenarios"][1]["source_v"]) == (24, "28.4 V")
    assert sheet(client, job)["run"]["round_trip_ceiling_v"] == pytest.approx(0.72)
    for bad, field in (({"title": " "}, "title"), ({"limit_set": "mine"}, "limit_set"),
                       ({"nominal_v": 36}, "nominal_v")):  # fmt: skip
        answer = client.post(f"{job}/details", json=bad)
        assert (answer.status_code, answer.json["errors"][0]["field"]) == (422, field)


def test_a_copied_job_has_the_craft_and_no_readings(demo: FlaskClient) -> None:
    made = demo.post(f"{MARRAM}/copy").json["id"]
    copied = sheet(demo, f"/api/v1/jobs/{made}")
    assert copied["title"] == "Sloop Marram: galley tap (copy)"
    assert copied["run"]["basis"] == "predicted"
    assert len(copied["runs"]) == 3


def test_scenarios_are_kept_copied_and_taken_out(demo: FlaskClient) -> None:
    seen = craft(demo, MARRAM)
    form = {k: v for k, v in seen["scenarios"][0].items() if k not in ("id", "source_v")}
    form |= {
        "name": "Cold night",
        "ambient": "14 \u00b0F",
        "engine": "",
        "starting": form["on"][:1],
    }
    made = act(demo, MARRAM, "scenarios", action="keep", form=form).json
    assert made["made"] == "cold-night"
    kept = craft(demo, MARRAM)["scenarios"][-1]
    assert (kept["ambient"], kept["starting"]) == (
        "-10\u00a0\u00b0C".replace("\u00a0", " "),
        form["on"][:1],
    )
    act(demo, MARRAM, "scenarios", action="copy", id="cold-night")
    act(demo, MARRAM, "scenarios", action="remove", id="cold-night")
    assert [s["name"] for s in craft(demo, MARRAM)["scenarios"]][-1] == "Cold night, again"
    read_in = act(demo, MARRAM, "scenarios", action="remove", id="evening")
    assert read_in.json["errors"][0]["problem"] == "readings were taken in it"
    for bad, field in (({"name": ""}, "name"), ({"ambient": "warm"}, "ambient"),
                       ({"ambient": "900"}, "ambient"), ({"on": ["no"]}, "on")):  # fmt: skip
        answer = act(demo, MARRAM, "scenarios", action="keep", form={**form, **bad})
        assert (answer.status_code, answer.json["errors"][0]["field"]) == (422, field)
    turned = act(demo, MARRAM, "scenarios", action="keep", form={**form, "name": "Cold\u202enight"})
    assert turned.status_code == 422
    assert turned.json["errors"][0]["problem"] == "holds a character that cannot be seen"
    other = act(demo, MARRAM, "scenarios", action="keep", form={**form, "surprise": 1})
    assert other.json["errors"][0]["problem"] == "is not a key that belongs here"


@pytest.mark.parametrize(
    ("bad", "field"),
    [({"title": "  "}, "title"), ({"capacity": "many"}, "capacity"), ({"capacity": "-4"}, "capacity"),
     ({"nominal_v": 13}, "nominal_v"), ({"battery": "potato"}, "battery"), ({"x": 1}, "x")],
)  # fmt: skip
def test_a_new_job_names_the_field_that_is_wrong(
    client: FlaskClient, bad: Document, field: str
) -> None:
    answer = client.post("/api/v1/jobs/new", json=asked(**bad))
    assert (answer.status_code, answer.json["errors"][0]["field"]) == (422, field)
    assert client.get("/api/v1/jobs").json["jobs"] == []


def test_a_positive_chassis_feeds_from_the_negative_post(client: FlaskClient) -> None:
    job = fresh(client, polarity="positive", battery="none", clamps=False, craft="other")
    drawn(client, job, "fuse 5 > 1 mm2 2 m > load Fan 1 A > 1 mm2 2 m")
    run = sheet(client, job)["run"]
    assert run["source"]["live"]["name"] == "Supply \u2212 post"
    assert run["load"]["volts"] > 13, "volts are counted from the return up to the feed"


def test_the_wiring_that_moved_on_is_not_written_over(client: FlaskClient) -> None:
    job = fresh(client)
    old = craft(client, job)["revision"]
    drawn(client, job, PUMP)
    late = client.post(f"{job}/lines", json={"stage": "as_found", "revision": old, "text": FAN})
    assert late.status_code == 409
    assert take(client, "0.2", ("live", "back"), job=job).status_code in (200, 422)


STRING = (
    '[Battery + clamp] > fuse 5 > 1.5 mm2 3 m > pin > lamp "Port lamp" 6 W at 6 V > 1.5 mm2 1 m > '
    'lamp "Starboard lamp" 6 W at 6 V > pin > 1.5 mm2 3 m > ring > [Battery \u2212 clamp]'
)


def test_two_lamps_in_series_have_a_sheet_a_walk_and_a_bench_each(client: FlaskClient) -> None:
    job = fresh(client)
    assert drawn(client, job, STRING)["made"] == "port-lamp"
    file = client.get(f"{job}/file").json
    lamps = {e["id"]: e for e in file["elements"] if e["kind"] == "load"}
    between = lamps["port-lamp"]["to"], lamps["starboard-lamp"]["from"]
    for red, black, typed, quantity in (
        (lamps["port-lamp"]["from"], lamps["port-lamp"]["to"], "0.95 A", "amperes"),
        (*between, "1.3", "volts"),
    ):
        body = {
            "id": uuid.uuid4().hex, "stage": "as_found", "scenario": "rested", "red": red,
            "black": black, "typed": typed, "quantity": quantity, "view": None,
        }  # fmt: skip
        assert client.post(f"{job}/readings", json=body).status_code == 200
    for run, other in (("port-lamp", "starboard-lamp"), ("starboard-lamp", "port-lamp")):
        asked = {"run": run}
        for page in ("walk", "upgrade", "proof", "walk/at-rest"):
            assert client.get(f"{job}/{page}", query_string=asked).status_code == 200, page
        sheet = client.get(f"{job}/sheet", query_string=asked).json["run"]
        (column,) = (c for c in sheet["columns"] if c["load"])
        assert (column["load"], column["on_purpose"], column["shared_with"]) == (other, True, [])
        assert sheet["verdict"] == "over"
        (held,) = sheet["predicted"]["holds"].values()
        assert held == column["name"]
    again = client.post("/api/v1/jobs?how=copy", json=file)
    assert again.status_code == 201, again.json
