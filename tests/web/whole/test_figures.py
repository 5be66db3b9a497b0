"""Figures come with their digits: one place decides them, whatever the units."""

import re
from collections.abc import Iterator
from typing import Any

import pytest
from flask.testing import FlaskClient

from spare_margin.wording.language import figures as words
from spare_margin.wording.language.units import IN_USE, Units
from tests.web.test_api import DUNLIN, MARRAM

KEYS = {"si", "text", "unit", "brief"}
PAGES = (
    f"{MARRAM}/sheet", f"{MARRAM}/craft", f"{MARRAM}/walk", f"{MARRAM}/source-check",
    f"{MARRAM}/limit-sets", f"{MARRAM}/worst", f"{MARRAM}/what-if", "/api/v1/jobs",
)  # fmt: skip


def figures(answer: Any, key: str = "") -> Iterator[tuple[str, dict[str, Any]]]:
    """Every figure in an answer, by the key it stands under."""
    if isinstance(answer, dict):
        if set(answer) == KEYS:
            yield key, answer
            return
        for name, each in answer.items():
            yield from figures(each, name)
    elif isinstance(answer, list):
        for each in answer:
            yield from figures(each, key)


@pytest.mark.parametrize("path", PAGES)
def test_every_figure_reads_as_it_should(demo: FlaskClient, path: str) -> None:
    found = list(figures(demo.get(path).get_json()))
    assert found
    for key, figure in found:
        assert re.fullmatch(r"\u2212?\d+(\.\d+)?", figure["text"]), (key, figure)
        scale = {"m\u03a9": 1000, "mV": 1000, "%": 100}.get(figure["unit"], 1)
        shown = float(figure["text"].replace("\u2212", "-"))
        assert shown == pytest.approx(figure["si"] * scale, rel=0.02, abs=0.6), (key, figure)
        if key.endswith("_v"):
            assert figure["unit"] == "V"
        if key.endswith("_a"):
            assert figure["unit"] == "A"


def test_figures_follow_the_workshops_units(demo: FlaskClient) -> None:
    demo.post("/api/v1/settings", json={"volts": "mV", "comma": "yes", "length": "ft"})
    sheet = demo.get(f"{MARRAM}/sheet").get_json()
    back = sheet["run"]["sides"][1]
    assert (back["ceiling_v"]["text"], back["ceiling_v"]["unit"]) == ("250", "mV")
    assert sheet["run"]["load"]["current_a"]["text"] == "5,40"
    assert sheet["run"]["headroom"]["amperes"]["text"].count(",") == 1
    copper = demo.get(f"{MARRAM}/craft").get_json()["copper"]
    assert {use["length_m"]["unit"] for use in copper} == {"ft"}


SAID = {"typed", "meter", "source", "note", "title", "complaint", "id", "revision", "at"}
"""Keys of what a person typed or a table cites: it stays as it is."""
CODES = {"side", "about", "until", "entry", "exit"}


def texts(answer: Any, key: str = "") -> Iterator[tuple[str, str]]:
    """Every text in an answer that was made here, by the key it stands under."""
    if isinstance(answer, dict):
        for name, each in answer.items():
            yield from texts(each, name)
    elif isinstance(answer, list):
        for each in answer:
            yield from texts(each, key)
    elif isinstance(answer, str) and key not in SAID:
        yield key, answer


@pytest.mark.parametrize("job", [MARRAM, DUNLIN, "/api/v1/jobs/demo-4-barge-orrin"])
def test_what_is_said_follows_the_workshops_mark_and_word(demo: FlaskClient, job: str) -> None:
    """Names are a person's: they stay. All else has the comma, and calls the return side ground."""
    demo.post("/api/v1/settings", json={"comma": "yes", "back_word": "ground", "volts": "mV"})
    shown = demo.get(f"{job}/sheet").get_json()
    ring = next(c["id"] for c in shown["run"]["columns"] if c["kind"] == "joint")
    body = {
        "stage": shown["stage"],
        "revision": shown["revision"],
        "element": ring,
        "correct": True,
    }
    body["edit"] = {"name": "Ring 2.5 return stud"}
    assert demo.post(f"{job}/changes", json=body).status_code == 200
    file = demo.get(f"{job}/file").get_json()
    names = {text for key, text in texts(file) if key in ("name", "summary", "label")}
    assert "Ring 2.5 return stud" in names
    # What a candidate would fit has its name already.
    names |= {"New return", "Ring, new return, load end", "Ring, new return, battery end"}
    own = re.compile("|".join(map(re.escape, sorted(names, key=len, reverse=True))), re.I)
    runs = [f"?run={run['id']}" for run in shown["runs"]]
    paths = [f"{job}/{page}{run}" for page in ("sheet", "walk") for run in runs]
    paths += [
        path.replace("{job}", job.rsplit("/", 1)[-1]).replace("/{run}", "")
        for path, acts in demo.get("/api/v1/openapi.json").get_json()["paths"].items()
        if "get" in acts and "{job}" in path and path.count("{") == 1 and not path.endswith("/file")
    ]
    said = 0
    for path in paths:
        answer = demo.get(path)
        if not answer.is_json or answer.status_code != 200:
            continue
        for key, text in texts(answer.get_json()):
            plain = re.sub(r"\d{4}-\d\d-\d\dT\S*|body return", "", own.sub("", text), flags=re.I)
            assert not re.search(r"\d\.\d", plain), (path, key, text)
            assert key in CODES or not re.search(r"\breturn\b", plain), (path, key, text)
            said += 1
    assert said > 1000


def test_a_figure_and_its_working_have_the_same_digits(demo: FlaskClient) -> None:
    """0.123 A is not 0.12 in one place and 0.123 in another."""
    run = demo.get(f"{MARRAM}/sheet").get_json()["run"]
    for column in run["columns"]:
        lines = {line["about"]: line["result"] for line in column["working"]}
        for about, key in (("current", "current_a"), ("allowance", "allowance_v")):
            shown = column[key]
            assert lines[about] == f"{shown['text']} {shown['unit']}", (column["name"], about)


def test_measured_ohms_have_no_more_digits_than_their_doubt(demo: FlaskClient) -> None:
    columns = demo.get(f"{MARRAM}/sheet").get_json()["run"]["columns"]
    measured = {c["name"]: c["found"]["measured"] for c in columns if c["found"]}
    assert measured["Ring at bus"]["text"] == "79"
    assert measured["Pump return"]["text"] == "18", "the source was read once: it may have moved"


@pytest.mark.parametrize(
    ("ohm", "doubt", "text"),
    [(0.0788, 0.02, "79"), (0.0788, 0.003, "79"), (0.0788, 0.0004, "78.8"), (0.0788, 0.0, "78.80"),
     (0.5, 0.0, "500.0"), (0.00017, 1e-6, "0.170")],
)  # fmt: skip
def test_milliohms_within_their_doubt(ohm: float, doubt: float, text: str) -> None:
    assert words.ohm_within(ohm, doubt).text == text


def test_lengths_in_tenths_below_ten() -> None:
    assert (words.metre_figure(3.44).text, words.metre_figure(12.4).text) == ("3.4", "12")
    token = IN_USE.set(Units(length="ft"))
    try:
        shown = words.metre_figure(3.44)
        assert (shown.text, shown.unit, shown.si) == ("11", "ft", 3.44)
    finally:
        IN_USE.reset(token)
