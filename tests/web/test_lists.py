"""The lists of a craft as the API gives them: on screen, as CSV, as PDF."""

import csv
import io
import re
from typing import Any

import pypdfium2 as pdfium
import pytest
from flask.testing import FlaskClient

from tests.web.test_run_table import boat, keep, pasted
from tests.web.test_upgrade import sized

JOB = "/api/v1/jobs/demo-1-sloop-marram"


def planned(client: FlaskClient) -> str:
    job = boat(client)
    assert keep(client, job, pasted(client, job), panels={"Panel": "2"}).status_code == 200
    made = sized(client, job, free_only=True)
    assert made["state"] == "done", made
    revision = {"revision": made["revision"]}
    assert client.post(f"{job}/sizing/take", json=revision).status_code == 200
    return job


def lists(client: FlaskClient, job: str, query: str = "") -> dict[str, Any]:
    return client.get(f"{job}/lists?{query}").json  # type: ignore[no-any-return]


def test_a_planned_boat_is_listed_whole_with_prices(client: FlaskClient) -> None:
    job = planned(client)
    client.post("/api/v1/settings", json={"currency": "crowns", "prices_of": "last May"})
    found = lists(client, job)
    assert (found["stage"], found["whole"], found["to_size"]) == ("planned", True, "")
    assert [w["number"] for w in found["wires"]] == list(range(1, len(found["wires"]) + 1))
    first = found["wires"][0]
    assert (first["end"], first["colour"], first["cut"]) == ("Panel +", "red", "2.5\u00a0m")
    assert {w["state"] for w in found["wires"]} == {"new"}
    assert found["together"].endswith("crowns")
    assert (found["prices_of"], found["unpriced"]) == ("last May", 0)
    assert all(b["price"].endswith("crowns") for b in found["buying"])
    one = lists(client, job, "run=cold-box")
    assert {w["loads"] for w in one["wires"] if "," not in w["loads"]} == {"Cold box"}
    assert lists(client, job, "run=nothing")["errors"][0]["field"] == "run"
    assert lists(client, job, "stage=as_left")["errors"][0]["field"] == "stage"


def test_what_is_not_sized_yet_is_said(client: FlaskClient) -> None:
    job = boat(client)
    keep(client, job, pasted(client, job), panels={"Panel": "2"})
    found = lists(client, job)
    assert "still to be sized" in found["to_size"]
    assert found["unpriced"] > 0
    assert {w["size"] for w in found["wires"]} == {"to be sized"}


def test_of_a_measured_craft_the_plan_is_listed_against_what_lies_there(demo: FlaskClient) -> None:
    made = sized(demo, JOB, mend=True, thicker=True)
    demo.post(f"{JOB}/sizing/take", json={"revision": made["revision"]})
    found = lists(demo, JOB)
    assert (found["whole"], found["can_compare"]) == (False, True)
    states = {w["state"] for w in found["wires"]}
    assert "stays" in states
    assert "changed" in states
    whole = lists(demo, JOB, "whole=true")
    assert {w["state"] for w in whole["wires"]} == {"new"}
    assert len(whole["buying"]) > len(found["buying"])


def rows(text: str) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(text)))


def test_lists_as_csv_have_numbers_as_numbers(client: FlaskClient) -> None:
    job = planned(client)
    wires = rows(client.get(f"{job}/lists/wires.csv").get_data(as_text=True))
    assert float(wires[0]["Cut"]) == 2.5
    assert wires[0]["No."] == "1"
    things = rows(client.get(f"{job}/lists/buying.csv").get_data(as_text=True))
    assert all(float(t["amount"]) > 0 for t in things)
    assert sum(float(t["together"]) for t in things) > 10
    labels = rows(client.get(f"{job}/lists/labels.csv").get_data(as_text=True))
    assert len(labels) == 2 * len(wires)
    assert labels[0]["label"].startswith("1 ")


def test_lengths_and_prices_follow_the_workshops_units(client: FlaskClient) -> None:
    job = planned(client)
    client.post("/api/v1/settings", json={"length": "ft"})
    found = lists(client, job)
    assert all(w["cut"].endswith("ft") for w in found["wires"])
    feet = [float(w["cut"].split("\u00a0")[0]) for w in found["wires"]]
    assert all(abs(2 * f - round(2 * f)) < 1e-6 for f in feet), "to six inches"


def test_the_quote_is_a_pdf(client: FlaskClient) -> None:
    job = planned(client)
    for paper in ("a4", "letter"):
        client.post("/api/v1/settings", json={"paper": paper, "workshop": "Yard & <Sons>"})
        answer = client.get(f"{job}/lists/quote.pdf")
        assert answer.status_code == 200
        assert answer.content_type == "application/pdf"
        assert answer.data.startswith(b"%PDF")
        assert len(answer.data) > 10_000


def text_of(pdf: bytes) -> str:
    pages = pdfium.PdfDocument(pdf)
    return " ".join(page.get_textpage().get_text_range() for page in pages)


def test_labels_are_printed_two_for_each_wire(client: FlaskClient) -> None:
    job = planned(client)
    wires = lists(client, job)["wires"]
    answer = client.get(f"{job}/lists/labels.pdf")
    assert answer.content_type == "application/pdf"
    text = " ".join(text_of(answer.data).split())
    for wire in wires:
        assert text.count(wire["label"].split(" ", 1)[1]) >= 2, wire["label"]


def test_an_hour_of_work_has_its_price_in_the_quote(client: FlaskClient) -> None:
    job = planned(client)
    found = lists(client, job)
    assert found["cost"] == ""
    kept = client.post("/api/v1/settings", json={"hour_price": "48,50", "currency": "crowns"})
    assert kept.json["hour_price"] == "48.5"
    cost = lists(client, job)["cost"]
    parts = float(found["together"].split("\u00a0")[0])
    work, both = (float(x) for x in re.findall(r": ([\d.]+)", cost))
    assert cost.startswith("Work at 48.50")
    assert work == round(work), "a guess has no pennies"
    assert both == pytest.approx(parts + work)
    assert "Parts and work" in text_of(client.get(f"{job}/lists/quote.pdf").data)
    for wrong in ("a lot", "-3", "0"):
        answer = client.post("/api/v1/settings", json={"hour_price": wrong})
        assert answer.status_code == 422
        assert answer.json["errors"][0]["field"] == "hour_price"


def test_wire_is_counted_in_the_workshops_reels(client: FlaskClient) -> None:
    job = planned(client)
    client.post("/api/v1/settings", json={"reel": "5"})
    amounts = [b["amount"] for b in lists(client, job)["buying"] if b["group"] == "cable"]
    assert any("reels of 5" in amount for amount in amounts), amounts
    # Kept with its unit: it is the same reel for a workshop in feet.
    assert client.get("/api/v1/settings").json["reel"] == "5 m"
    client.post("/api/v1/settings", json={"reel": ""})
    amounts = [b["amount"] for b in lists(client, job)["buying"] if b["group"] == "cable"]
    assert not any("reels of 5" in amount for amount in amounts), amounts
    for wrong in ("long", "0.2 m", "9000 m"):
        assert client.post("/api/v1/settings", json={"reel": wrong}).status_code == 422
