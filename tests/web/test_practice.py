"""Practice over the API: an exercise to its debrief, learners apart, sets, lessons; nothing mixed up."""

import csv
import io
from typing import Any

import pytest
from flask.testing import FlaskClient

from spare_margin.core.practice.shipped import SHIPPED
from tests.practice import made, way_of

PRACTICE = "/api/v1/practice"
ADA, BO = "Ada Lind", "Bo Rask"
WEAK = "1-7"


def begin(client: FlaskClient, who: str = ADA, key: str = WEAK, **more: Any) -> Any:
    body = {"id": f"{who[:3]}-{key}-attempt", "who": who, "exercise": key, **more}
    answer = client.post(f"{PRACTICE}/attempts", json=body)
    assert answer.status_code == 201, answer.json
    return answer.json


def do(client: FlaskClient, bay: Any, who: str = ADA, **act: Any) -> Any:
    body = {"who": who, "number": bay["number"], "act": act}
    return client.post(f"{PRACTICE}/attempts/{bay['attempt']}/acts", json=body)


def played(client: FlaskClient, who: str = ADA, key: str = WEAK, **more: Any) -> Any:
    """To its end, as an expert would."""
    bay = begin(client, who, key, **more)
    for act in way_of(key):
        answer = do(client, bay, who, **act)
        assert answer.status_code == 200, answer.json
        bay = answer.json
    return bay


def test_an_exercise_is_played_to_its_debrief(client: FlaskClient) -> None:
    bay = played(client)
    assert bay["ended"]
    told = client.get(f"{PRACTICE}/attempts/{bay['attempt']}/debrief?who={ADA}").json
    assert (told["outcome"], told["right"]) == ("mended", True)
    assert told["truth"].startswith("It was: ")
    assert told["minutes"] == told["shortest_min"]
    assert len(told["steps"]) == len(bay["acts"]) == bay["number"]
    stands = client.get(f"{PRACTICE}/progress?who={ADA}").json
    assert [(e["ended"], e["right"]) for e in stands["levels"]] == [(1, 1)]


def test_nothing_of_the_truth_is_told_while_it_is_played(client: FlaskClient) -> None:
    bay = begin(client)
    (hidden,) = made(WEAK)[0].hidden
    sound, bad = (
        {k: v for k, v in thing.items() if k not in ("id", "name", "kind", "side", "remedies")}
        for thing in (bay["things"][0], next(t for t in bay["things"] if t["id"] == hidden.element))
    )
    assert sound == bad
    assert "ohm" not in str(bay)
    assert client.get(f"{PRACTICE}/attempts/{bay['attempt']}/debrief?who={ADA}").status_code == 422


def test_two_learners_do_not_see_each_others(client: FlaskClient) -> None:
    bay = played(client)
    path = f"{PRACTICE}/attempts/{bay['attempt']}"
    for address in (path, f"{path}/ahead", f"{path}/debrief"):
        assert client.get(f"{address}?who={BO}").status_code == 404
    assert do(client, bay, BO, kind="zero").status_code == 404
    list_of_bo = client.get(f"{PRACTICE}?who={BO}").json
    exercises = [e for level in list_of_bo["levels"] for e in level["exercises"]]
    assert {e["attempt"] for e in exercises} == {None}
    assert client.get(f"{PRACTICE}/progress?who={BO}").json["levels"] == []


def test_an_act_that_is_sent_twice_is_done_once(client: FlaskClient) -> None:
    bay = begin(client)
    again = begin(client)
    assert again["number"] == 0
    first = do(client, bay, kind="volts", red="p1", black="p5").json
    twice = do(client, bay, kind="volts", red="p1", black="p5").json
    assert twice == first
    other = do(client, bay, kind="zero")
    assert other.status_code == 409
    assert "elsewhere" in other.json["detail"]


@pytest.mark.parametrize(
    ("act", "field"),
    [
        ({"kind": "volts", "red": "p99", "black": "p1"}, "red"),
        ({"kind": "volts", "red": "p1", "black": "p1"}, "black"),
        ({"kind": "fly"}, "act.kind"), ({"kind": "wait", "minutes": 1e9}, "act.minutes"),
        ({"kind": "conclude", "claims": [{"element": "zz", "kind": "open"}]}, "claims"),
    ],
)  # fmt: skip
def test_what_cannot_be_done_names_its_field(client: FlaskClient, act: Any, field: str) -> None:
    bay = begin(client)
    answer = do(client, bay, **act)
    assert answer.status_code == 422
    assert field in [e["field"] for e in answer.json["errors"]]
    assert client.get(f"{PRACTICE}/attempts/{bay['attempt']}?who={ADA}").json["number"] == 0


def test_an_exercise_that_is_none_is_not_begun(client: FlaskClient) -> None:
    for key in ("9-1", "own-nobody", "1-x"):
        body = {"id": "attempt-none", "who": ADA, "exercise": key}
        assert client.post(f"{PRACTICE}/attempts", json=body).status_code == 422
    nameless = client.post(f"{PRACTICE}/attempts", json={"id": "attempt-none", "exercise": WEAK})
    assert nameless.json["errors"][0]["field"] == "who"


def test_what_is_known_ahead_comes_true(client: FlaskClient) -> None:
    bay = do(client, begin(client), kind="zero").json
    ahead = client.get(f"{PRACTICE}/attempts/{bay['attempt']}/ahead?who={ADA}").json
    assert ahead["number"] == 1
    after = do(client, bay, kind="volts", red="p5", black="p1").json
    assert after["display"]["shown"] == ahead["volts"][0]["p5 p1"]
    then = do(client, after, kind="amperes", element="l1").json
    assert then["display"]["shown"] == ahead["amperes"][1]["l1"]


def test_another_is_one_that_was_not_had(client: FlaskClient) -> None:
    first = client.post(
        f"{PRACTICE}/another", json={"id": "another-1", "who": ADA, "like": WEAK}
    ).json
    second = client.post(
        f"{PRACTICE}/another", json={"id": "another-2", "who": ADA, "like": WEAK}
    ).json
    assert {first["level"], second["level"]} == {1}
    assert first["exercise"] != second["exercise"]
    shelf = client.get(f"{PRACTICE}?who={ADA}").json
    assert {e["key"] for e in shelf["open"]} == {first["exercise"], second["exercise"]}
    assert sum(len(level["exercises"]) for level in shelf["levels"]) == len(SHIPPED)


def test_a_set_is_seen_by_outcome_and_goes_out_as_csv(client: FlaskClient) -> None:
    form = {
        "who": "Teacher",
        "name": "=Monday",
        "exercises": [WEAK, "2-1"],
        "learners": [ADA, "", f" {BO} "],
    }
    held = client.post(f"{PRACTICE}/sets", json=form).json
    played(client, ADA, WEAK, asked_by=held["id"])
    seen = client.get(f"{PRACTICE}/sets/{held['id']}").json
    assert seen["learners"] == [ADA, BO]
    outcomes = {(d["learner"], d["exercise"]): d["outcome"] for d in seen["done"]}
    assert outcomes[ADA, WEAK] == "Repaired, and proven."
    assert outcomes[BO, WEAK] == ""
    mine = client.get(f"{PRACTICE}?who={ADA}").json["sets"][0]
    assert mine["mine"]
    text = client.get(f"{PRACTICE}/sets/{held['id']}.csv").text
    rows = list(csv.reader(io.StringIO(text)))
    assert len(rows) == 5
    assert rows[1][:2] == [ADA, WEAK]
    for wrong in ({"name": " "}, {"exercises": []}, {"learners": [" "]}, {"exercises": ["9-9"]}):
        assert client.post(f"{PRACTICE}/sets", json={**form, **wrong}).status_code == 422
    assert client.post(f"{PRACTICE}/sets/{held['id']}/remove", json={}).status_code == 204
    assert client.get(f"{PRACTICE}/sets/{held['id']}").status_code == 404


def test_a_lesson_is_pulled_and_answered(client: FlaskClient) -> None:
    at = client.get(f"{PRACTICE}/lessons/spent?pull=0.5").json
    assert {f["key"]: f["value"] for f in at["figures"]}["lamp"] == "6.28 V"
    wrong = client.post(f"{PRACTICE}/lessons/spent", json={"who": ADA, "answer": 0}).json
    assert (wrong["right"], wrong["correct"]) == (False, 1)
    client.post(f"{PRACTICE}/lessons/spent", json={"who": ADA, "answer": 1})
    lessons = {
        each["id"]: each["right"] for each in client.get(f"{PRACTICE}?who={ADA}").json["lessons"]
    }
    assert lessons["spent"] is True
    assert lessons["ohms"] is None
    assert client.get(f"{PRACTICE}/lessons/spent?pull=7").status_code == 422
    assert client.get(f"{PRACTICE}/lessons/none").status_code == 422


def test_a_job_whose_fault_was_found_becomes_an_exercise_without_names(demo: FlaskClient) -> None:
    job = "demo-1-sloop-marram"
    own = demo.post(f"{PRACTICE}/own", json={"job": job}).json
    bay = begin(demo, ADA, own["key"])
    title = demo.get(f"/api/v1/jobs/{job}/sheet").json["title"]
    assert title not in str(bay)
    assert "Marram" not in str(bay)
    assert bay["loads"][0]["looks"] == "full"
    assert "Is it all right now?" in bay["complaint"]
    unread = demo.post(f"{PRACTICE}/own", json={"job": "demo-4-barge-orrin"})
    assert unread.status_code == 422
    assert demo.post(f"{PRACTICE}/own", json={"job": "none"}).status_code == 404


def test_practice_is_in_nothing_of_the_jobs(demo: FlaskClient) -> None:
    def jobs() -> tuple[Any, ...]:
        shelf, learned = (
            demo.get("/api/v1/jobs?away=any").json,
            demo.get("/api/v1/learned").json,
        )
        return shelf, learned, demo.get("/api/v1/jobs/demo-1-sloop-marram/file").json

    before = jobs()
    played(demo)
    demo.post(f"{PRACTICE}/own", json={"job": "demo-1-sloop-marram"})
    assert jobs() == before
    assert demo.get("/api/v1/jobs?words=Comb+spinner").json["total"] == 0


def test_the_demo_has_a_week_of_two_learners(demo: FlaskClient) -> None:
    shelf = demo.get(f"{PRACTICE}?who=").json
    assert len(shelf["learners"]) == 2
    careful, hasty = (demo.get(f"{PRACTICE}/progress?who={who}").json for who in shelf["learners"])
    assert sum(e["right"] for e in careful["levels"]) > sum(e["right"] for e in hasty["levels"])
    assert hasty["habits"]
