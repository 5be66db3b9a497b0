"""The proof, the hand-over sheet and signatures over HTTP, on the demo jobs."""

import csv
import io
import json
from typing import Any

import pypdfium2 as pdfium
import pytest
from flask.testing import FlaskClient

from tests.web.test_api import change, sheet, take

JOB = "/api/v1/jobs/demo-3-show-truck-dunlin"
SLOOP = "/api/v1/jobs/demo-1-sloop-marram"


def note(
    client: FlaskClient, job: str, step: str, state: str = "acknowledged", **more: Any
) -> None:
    said = {"id": f"note-{step}-{state}".replace(" ", "-"), "stage": "as_left", "run": "tap",
            "step": step, "state": state, "reason": "", "who": "", **more}  # fmt: skip
    assert client.post(f"{job}/walk/notes", json=said).status_code == 200


def state_of(proof: Any, code: str) -> Any:
    return next(c["holds"] for c in proof["conditions"] if c["code"] == code)


def test_the_demo_is_proved_and_says_what_was_won(demo: FlaskClient) -> None:
    proof = demo.get(f"{JOB}/proof").json
    assert (proof["run"], proof["outcome"]) == ("lift", "passed")
    assert all(c["holds"] for c in proof["conditions"])
    assert "more; 70 W less wasted as heat in the wiring" in proof["won"]
    lug = next(r for r in proof["readings"] if "Rear lug" in r["what"])
    assert (lug["before_verdict"], lug["after_verdict"]) == ("over", "within")
    assert lug["after"] == pytest.approx(lug["expected"], abs=0.002)
    assert {x["code"]: x["alike"] for x in proof["likenesses"]}["warm_up"] is True
    assert [p["name"] for p in proof["pieces"] if p["worked_on"]] == ["Lift return", "Rear lug"]
    assert proof["signed"][0]["name"] == "Mads Ottesen"


def remade(client: FlaskClient) -> None:
    """The sloop's guilty ring planned as remade."""
    assert change(client, sheet(client), "tap-ring", repair="remade").status_code == 200


def walk_on(client: FlaskClient, more_v: float = 0.0) -> list[str]:
    """Read card after card as expected, what crosses the ring with so many volts more; their ids."""
    asked: list[str] = []
    while (card := client.get(f"{SLOOP}/walk?run=tap&stage=as_left").json["now"]) is not None:
        asked.append(card["id"])
        assert len(asked) < 20, asked
        expected = {
            r["id"]: r["expected"] for r in client.get(f"{SLOOP}/proof?run=tap").json["readings"]
        }
        value = expected.get(card["id"])
        if value is None:  # a probe of the search: what a sound piece shows
            value = card["expect_low"] if card["expect_low"] is not None else 0.01
        if card["id"] in ("return", "span tap-r bus"):
            value += more_v
        if card["id"] == "load":
            value -= more_v
        more = {"quantity": "amperes"} if card["kind"] == "current" else {}
        ends = (card["red"]["id"], card["black"]["id"])
        answer = take(client, f"{value:.3f}", ends, stage="as_left", **more)
        assert answer.status_code == 200, answer.json
    return asked


def test_a_repair_is_proved_card_by_card(demo: FlaskClient) -> None:
    remade(demo)
    wanted = [r["id"] for r in demo.get(f"{SLOOP}/proof?run=tap").json["readings"]]
    asked = walk_on(demo)
    assert asked[: len(wanted)] == wanted
    assert asked[len(wanted) :] == ["span bat+ iso"], (
        "shared wiring is told apart from the run's own"
    )
    proof = demo.get(f"{SLOOP}/proof?run=tap").json
    assert (proof["outcome"], proof["started"]) == ("open", True)
    assert [c["code"] for c in proof["conditions"] if not c["holds"]] == ["cool", "cautions"]
    note(demo, SLOOP, "proof.cool")
    for caution in proof["cautions"]:
        note(demo, SLOOP, f"caution {caution['id']}")
    proof = demo.get(f"{SLOOP}/proof?run=tap").json
    assert proof["outcome"] == "passed"
    assert proof["done"] == ["Ring at bus: remade"]
    ring = next(p for p in proof["pieces"] if p["name"] == "Ring at bus")
    assert ring["worked_on"]
    assert ring["before_ohm"] > 0.07 > 0.01 > ring["after_ohm"]


def test_the_proof_says_what_a_meter_gave_by_itself(demo: FlaskClient) -> None:
    remade(demo)
    head = sheet(demo, SLOOP, run="tap", stage="as_left")
    figure = {
        "name": "Blue meter",
        "samples": 10,
        "seconds": 0.97,
        "spread": 0.0004,
        "range_to": 0.6,
    }
    body = {
        "id": "by-the-blue-meter", "stage": "as_left", "scenario": head["scenario"], "red": "tap-",
        "black": "bat-", "typed": "0.1234 V", "by_meter": figure, "view": None,
    }  # fmt: skip
    assert demo.post(f"{SLOOP}/readings", json=body).status_code == 200
    lines = demo.get(f"{SLOOP}/proof?run=tap").json["readings"]
    (back,) = [r for r in lines if r["taken"]]
    assert "after by Blue meter: 10 figures in 0.97" in back["taken"]
    text = " ".join(pages(demo, f"{SLOOP}/hand-over.pdf?run=tap"))
    assert "Blue meter" in text


def test_a_second_fault_shows_and_the_next_walk_starts_at_the_source(demo: FlaskClient) -> None:
    remade(demo)
    walk_on(demo, more_v=0.5)
    proof = demo.get(f"{SLOOP}/proof?run=tap").json
    assert proof["outcome"] == "failed"
    assert state_of(proof, "ceilings") is False
    first = proof["tries"][0]
    assert first["verdict"] == "over"
    # The ring is done again: everything that crossed it is read again, the source first.
    left = sheet(demo, stage="as_left", run="tap")
    assert change(demo, left, "tap-ring", repair="replaced").status_code == 200
    assert demo.get(f"{SLOOP}/walk?run=tap&stage=as_left").json["now"]["id"] == "source"
    asked = walk_on(demo)
    assert asked[:3] == ["source", "current", "load"]
    proof = demo.get(f"{SLOOP}/proof?run=tap").json
    assert state_of(proof, "ceilings") is True
    assert [t["verdict"] for t in proof["tries"]] == ["over", "within"]
    assert proof["tries"][1]["changed"] == ["Ring at bus: replaced"]


def test_nothing_can_be_signed_before_something_was_read(demo: FlaskClient) -> None:
    proof = demo.get(f"{SLOOP}/proof?run=tap").json
    assert not proof["started"]
    said = signature(proof, "device-0001")
    answer = demo.post(f"{SLOOP}/sign", json=said)
    assert answer.status_code == 422
    assert "nothing of it was read as left" in answer.get_data(as_text=True)


def signature(proof: Any, key: str, **more: Any) -> dict[str, Any]:
    return {
        "id": key, "run": proof["run"], "revision": proof["revision"], "role": "customer",
        "name": "  Rosa   Lindgren ", "strokes": [[[0.1, 0.1], [0.3, 0.2]]], **more,
    }  # fmt: skip


def test_a_signature_is_kept_once_and_never_changed(demo: FlaskClient) -> None:
    proof = demo.get(f"{JOB}/proof").json
    said = signature(proof, "device-0001")
    first = demo.post(f"{JOB}/sign", json=said)
    assert first.status_code == 200
    assert (first.json["name"], first.json["outcome"]) == ("Rosa Lindgren", "passed")
    assert demo.post(f"{JOB}/sign", json=said).status_code == 200
    other = signature(proof, "device-0001", name="Somebody else")
    assert demo.post(f"{JOB}/sign", json=other).status_code == 409
    signed = demo.get(f"{JOB}/proof").json["signed"]
    assert [s["name"] for s in signed] == ["Mads Ottesen", "Rosa Lindgren"]
    # It travels with the job, strokes and all.
    file = demo.get(f"{JOB}/file").get_data()
    made = demo.post("/api/v1/jobs", data=file, content_type="application/json").json["id"]
    again = demo.get(f"/api/v1/jobs/{made}/proof").json
    assert again["signed"] == signed
    out, first = (json.loads(f) for f in (demo.get(f"/api/v1/jobs/{made}/file").data, file))
    assert out["sign_offs"] == first["sign_offs"]


@pytest.mark.parametrize(
    ("wrong", "status"),
    [
        ({"name": "   "}, 422), ({"revision": "as-found"}, 409), ({"role": "witness"}, 422),
        ({"strokes": [[[9.0, 0.1]]]}, 422), ({"strokes": [[[0.1, 0.1]] * 2001]}, 422),
        ({"strokes": [[[0.1, 0.1]]] * 101}, 422), ({"run": "nothing"}, 422), ({"id": "x"}, 422),
    ],
)  # fmt: skip
def test_what_cannot_be_signed_is_said(
    demo: FlaskClient, wrong: dict[str, Any], status: int
) -> None:
    proof = demo.get(f"{JOB}/proof").json
    answer = demo.post(f"{JOB}/sign", json=signature(proof, "device-0002", **wrong))
    assert answer.status_code == status
    assert len(demo.get(f"{JOB}/proof").json["signed"]) == 1


def test_left_undone_is_the_last_word(demo: FlaskClient) -> None:
    for n, text in enumerate(("The feed lug, no spare.", "Nothing.")):
        note(demo, JOB, "proof.left", run="lift", reason=text, id=f"undone-{n}-00")
    assert demo.get(f"{JOB}/proof").json["left_undone"] == "Nothing."
    note(demo, JOB, "proof.left", "back", run="lift", id="undone-back")
    assert demo.get(f"{JOB}/proof").json["left_undone"] == ""


def test_a_run_that_is_not_there_is_said(demo: FlaskClient) -> None:
    for what in ("proof", "hand-over.pdf", "proof.csv"):
        answer = demo.get(f"{JOB}/{what}?run=nothing")
        assert answer.status_code == 422
        assert "there is no run nothing" in answer.get_data(as_text=True)


def test_before_and_after_as_csv(demo: FlaskClient) -> None:
    text = demo.get(f"{JOB}/proof.csv").get_data(as_text=True)
    assert "\r\n" in text
    rows = list(csv.DictReader(io.StringIO(text)))
    lug = next(r for r in rows if "Rear lug" in r["what"])
    assert float(lug["before"]) == pytest.approx(0.591, abs=0.002)
    assert (lug["unit"], lug["verdict before"], lug["verdict after"]) == ("V", "over", "within")
    assert next(r["unit"] for r in rows if r["what"].startswith("The current")) == "A"


# The sheet on paper


def pages(client: FlaskClient, path: str) -> list[str]:
    answer = client.get(path)
    assert answer.status_code == 200, answer.get_data(as_text=True)
    assert answer.content_type == "application/pdf"
    document = pdfium.PdfDocument(answer.get_data())
    return [page.get_textpage().get_text_bounded() for page in document]


def test_the_hand_over_sheet_says_it_all(demo: FlaskClient) -> None:
    demo.post("/api/v1/settings", json={"workshop": "Quayside Electrics"})
    found = pages(demo, f"{JOB}/hand-over.pdf")
    assert 1 <= len(found) <= 3
    text = " ".join(" ".join(found).split())
    for said in (
        "Quayside Electrics", "Show truck Dunlin", "Saltmarsh Players", "Stage lift crawls",
        "By duty", "Stage lift: Proved", "0.5910 V", "0.0215 V", "Rear lug: remade",
        "licensed practice come first", "Mads Ottesen, 2026-05-20", "Accepted by",
    ):  # fmt: skip
        assert said in text, said


def test_its_typefaces_are_embedded_and_its_paper_is_the_workshops(demo: FlaskClient) -> None:
    raw = demo.get(f"{JOB}/hand-over.pdf").get_data()
    assert raw.count(b"/FontFile2") >= 2
    size = pdfium.PdfDocument(raw)[0].get_size()
    assert size == pytest.approx((595.3, 841.9), abs=0.1)
    demo.post("/api/v1/settings", json={"paper": "letter"})
    letter = pdfium.PdfDocument(demo.get(f"{JOB}/hand-over.pdf").get_data())[0].get_size()
    assert letter == pytest.approx((612, 792), abs=0.1)


@pytest.mark.parametrize(
    ("name", "shown"),
    [
        ("Łukasz Żółć", "Łukasz Żółć"), ("Ольга Щербина", "Ольга Щербина"), ("王小明", "王小明"),
        ("김민수", "김민수"), ("やまだ はな", "やまだ はな"), ("Ελένη <b>&amp;", "Ελένη <b>&amp;"),
    ],
)  # fmt: skip
def test_names_stand_as_they_were_typed(demo: FlaskClient, name: str, shown: str) -> None:
    demo.post(f"{JOB}/details", json={"customer": name})
    assert shown in " ".join(pages(demo, f"{JOB}/hand-over.pdf"))


def test_a_name_from_right_to_left_is_set_that_way(demo: FlaskClient) -> None:
    demo.post(f"{JOB}/details", json={"customer": "דוד לוי"})
    # Drawn from the left, the last letter comes first.
    assert "דוד לוי"[::-1] in " ".join(
        pages(demo, f"{JOB}/hand-over.pdf")
    ) or "דוד לוי" in " ".join(pages(demo, f"{JOB}/hand-over.pdf"))


def test_nothing_read_and_nothing_written_is_a_sheet_too(demo: FlaskClient) -> None:
    text = " ".join(pages(demo, f"{SLOOP}/hand-over.pdf?run=tap"))
    assert "Nothing was read after the repair." in text
    assert "No change to the wiring." in text


def test_long_names_and_long_words_break_no_page(demo: FlaskClient) -> None:
    document = json.loads(demo.get(f"{JOB}/file").get_data())
    for element in document["elements"]:
        element["name"] = (element.get("name", "x") + " " + "Wwwwwwwwww" * 12)[:110]
    for node in document["nodes"]:
        node["name"] = "N" * 110
    document["title"] = "T" * 200
    document["customer"] = "long " * 39
    document["complaint"] = {"what": "w" * 2000, "when": "", "conditions": "c " * 900}
    answer = demo.post("/api/v1/jobs", data=json.dumps(document), content_type="application/json")
    assert answer.status_code == 201, answer.json
    assert len(pages(demo, f"/api/v1/jobs/{answer.json['id']}/hand-over.pdf?run=lift")) <= 4


def test_forty_runs_have_a_sheet_each(demo: FlaskClient) -> None:
    runs = demo.get("/api/v1/jobs/demo-4-barge-orrin/proof").json["runs"]
    assert len(runs) > 10
    for run in runs[:3]:
        path = f"/api/v1/jobs/demo-4-barge-orrin/hand-over.pdf?run={run['id']}"
        assert 1 <= len(pages(demo, path)) <= 3


def test_a_relay_is_proved_with_its_coil(demo: FlaskClient) -> None:
    job = "/api/v1/jobs/demo-5-trailer-siskin"
    asked = 0
    while (card := demo.get(f"{job}/walk?stage=as_left").json["now"]) is not None:
        proof = demo.get(f"{job}/proof").json
        value = next(r["expected"] for r in proof["readings"] if r["id"] == card["id"])
        more = {"quantity": "amperes"} if card["kind"] == "current" else {}
        scenario = demo.get(f"{job}/walk?stage=as_left").json["scenario"]
        ends = (card["red"]["id"], card["black"]["id"])
        answer = take(
            demo, f"{value:.3f}", ends, job=job, stage="as_left", scenario=scenario, **more
        )
        assert answer.status_code == 200, answer.json
        asked += 1
        assert asked < 15
    proof = demo.get(f"{job}/proof").json
    coil = next(r for r in proof["readings"] if "Relay coil" in r["what"])
    assert coil["after"] == pytest.approx(coil["expected"], abs=0.01)
    assert coil["after"] > 12
    assert {p["name"] for p in proof["pieces"] if p["worked_on"]} >= {"New feed", "New return"}
    cool = next(c for c in proof["conditions"] if c["code"] == "cool")
    assert "Terminal, new feed" in cool["says"]


def test_before_anything_is_read_again_nothing_that_readings_prove_is_ticked(
    demo: FlaskClient,
) -> None:
    proof = demo.get("/api/v1/jobs/demo-1-sloop-marram/proof").json
    holds = {c["code"]: c["holds"] for c in proof["conditions"]}
    measured = ("loaded", "ceilings", "points", "repeats", "closes", "cool", "alike")
    assert {code: holds[code] for code in measured} == dict.fromkeys(measured)
    says = {c["code"]: c["says"] for c in proof["conditions"]}
    assert says["repeats"] == "Nothing was read after the repair yet."
    assert says["alike"] == "Nothing to compare yet."
